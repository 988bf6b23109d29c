"""The log: a row a take, what came of it in a word that its reading bears out."""

from __future__ import annotations

from django.test import TestCase

from giusto.simulation.player import SimulatedPlayer
from studio.log.lines import WORDS, days
from studio.takes.models import Take
from tests.drills import fixed
from tests.drills import plain as drill_plain
from tests.studio.playing import play


class LineTests(TestCase):
    def outcome(self, *, seed: int = 1, silence: object = None, cycles: int = 16, **player: float) -> str:
        drill = drill_plain(silence=silence or fixed(2, 2), cycles=cycles)
        take = play(self.client, drill=drill, player=SimulatedPlayer(**player), seed=seed)
        return days(Take.objects.filter(pk=take.pk).for_log(), {})[0].lines[0].outcome

    def test_a_drag_a_rush_and_what_is_held(self) -> None:
        self.assertRegex(self.outcome(bias_percent=-3.0, clock_percent=0.4, hand_ms=3.0), r"^dragged in all four$")
        self.assertRegex(self.outcome(bias_percent=3.0, clock_percent=0.4, hand_ms=3.0), r"^rushed in all four$")
        self.assertRegex(self.outcome(bias_percent=0.0, clock_percent=0.1, hand_ms=2.0), r"^held all four$")

    def test_the_click_throughout_is_told_by_place(self) -> None:
        drill = drill_plain(silence=None, cycles=8)
        play(self.client, drill=drill, player=SimulatedPlayer(place_ms=-25.0, hand_ms=3.0, clock_percent=0.3))
        play(self.client, drill=drill, player=SimulatedPlayer(place_ms=-4.0, hand_ms=3.0, clock_percent=0.3))
        page = self.client.get("/log/").content.decode()
        self.assertRegex(page, r"2\d\xa0ms early, even")
        self.assertRegex(page, r"\b[2-6]\xa0ms early, even")

    def test_each_verdict_has_its_word_here(self) -> None:
        """The codes of advice/2 that silences and place don't tell (docs/schema)."""
        told = {"held", "dragged", "rushed", "before", "after", "loose"}
        schema = {"uneven", "jumped", "edge", "slipped", "together", "kept", "slowed", "quickened", "wandered"}
        schema |= {"crushed", "stretched", "too-few", "own-tempo", "beat-off", "not-this-drill", "other-part"}
        self.assertEqual(set(WORDS) | told, schema | told)

    def test_a_row_is_one_link_and_the_day_says_what_was_played(self) -> None:
        take = play(self.client)
        page = self.client.get("/log/").content.decode()
        self.assertEqual(page.count(take.get_absolute_url()), 1)
        self.assertIn("25 November", page)
