"""No two pages give different answers to one question: three scripted players (the demo's own is in its tests)."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from django.test import TestCase

from giusto.simulation.player import SimulatedPlayer
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from tests.drills import fixed, plain
from tests.studio.answers import answers, disagreements
from tests.studio.ladders.climbing import at, ladder_core, play_asked
from tests.studio.plans.test_today import a_routine, in_technique
from tests.studio.playing import play

MONDAY = datetime(2026, 11, 2, 18, tzinfo=UTC)


class OneAnswerTests(TestCase):
    def setUp(self) -> None:
        self.moment = MONDAY

    def play(self, player: SimulatedPlayer, **drill: Any) -> None:
        play(
            self.client,
            drill=plain(**drill),
            player=player,
            seed=self.moment.minute + 1,
            started_at=f"{self.moment:%FT%TZ}",
        )
        self.moment += timedelta(minutes=3)

    def agree(self, *questions: str) -> None:
        with at(self.moment):
            found = answers(self.client)
        self.assertEqual(disagreements(found), [])
        for question in questions:
            self.assertGreater(len(found[question]), 1, (question, found[question]))

    def test_one_who_holds_two_bars_and_loses_four(self) -> None:
        a_routine(in_technique("Reach"))
        hand = SimulatedPlayer(bias_percent=-0.8, clock_percent=0.5, hand_ms=5.0)
        for silent in (1, 2, 4):
            self.play(hand, silence=fixed(2, silent), cycles=12, bpm=84)
            self.play(hand, silence=fixed(2, silent), cycles=12, bpm=120)
        self.agree("how long", "by what", "to try", "minutes today", "takes of the month")

    def test_one_who_only_plays_with_the_click(self) -> None:
        a_routine(in_technique("Reach"))
        for bpm in (60, 72):
            self.play(SimulatedPlayer(place_ms=-25.0), silence=None, bpm=bpm, cycles=8)
        self.agree("to try", "minutes today", "takes of the month")

    def test_one_who_climbs_in_keys_stops_early_and_plays_on_beside_the_plan(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_core(rule={"kind": "streak", "clean": 2}))
        start_ladder(player=local_player(), ladder=ladder_core(name="Other", rule={"kind": "streak", "clean": 1}))
        with at(self.moment):
            a_routine(in_technique("Quarters", keys={"all": ["C", "F"], "per_session": 1}), in_technique("Other"))
        for number, clean in enumerate((True, True, False, True, True)):
            with at(self.moment):
                lines = self.client.get("/today/").context["today"].lines
                play_asked(self.client, lines[1 + number % 2].item.url, clean=clean, moment=self.moment)
            self.moment += timedelta(minutes=2)
        for _ in range(3):  # one take of silences that are all held tells no length for sure
            self.play(SimulatedPlayer(clock_percent=0.4, hand_ms=4.0), cycles=8)
        with at(self.moment):
            self.client.post("/today/close/")
        self.agree(
            "how long", "minutes today", "takes of the month", "asked by Other", "secure of Other", "asked by Quarters"
        )
