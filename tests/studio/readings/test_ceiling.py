"""How fast at all: what the page says of a probe and of a burst, and the tempo to work at."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import numpy as np
from django.test import Client, TestCase
from django.urls import reverse

from giusto.drill import validate
from giusto.practice.ceiling import probe_of
from giusto.schedule import schedule
from studio.accounts.models import local_player
from studio.drills.sentence.codec import query, words_of
from studio.drills.shelf import shelf
from studio.exercises.actions import exercise_for
from studio.ladders.models import Ladder
from studio.takes.ceilings import probe_address
from tests.drills import plain
from tests.giusto.practice.ceiling.test_burst import struck
from tests.giusto.practice.ceiling.test_probe import hands
from tests.studio.ladders.climbing import at
from tests.studio.plans.test_today import a_routine
from tests.studio.playing import begin_body, notes_body, post, send


def parse_qs_drill(client: Client, address: str) -> dict[str, Any]:
    """Return the drill that an address plays."""
    found: dict[str, Any] = client.get(address).context["plan"]["drill"]
    return found


class CeilingTests(TestCase):
    def send(self, slug: str, onsets_s: np.ndarray):  # type: ignore[no-untyped-def]
        return send(self.client, shelf()[slug].drill.plain(), onsets_s)

    def test_probe_and_burst_make_a_tempo_to_work_at_and_a_ladder(self) -> None:
        plan = schedule(validate(shelf()["how-fast"].drill.plain()))
        take = self.send("how-fast", hands(plan, 140))
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "You and the click parted at")
        self.assertContains(page, "Stop when a hand hurts")
        self.assertContains(
            self.client.get(take.get_absolute_url(), {"view": "standing"}), "You and the click parted at"
        )
        self.assertAlmostEqual(page.context["fast"].working.bpm, 0.8 * 142, delta=6)
        alone = schedule(validate(shelf()["burst-alone"].drill.plain()))
        start_s = float(alone.seconds(alone.silences[0].start_tick))
        take = self.send("burst-alone", start_s + 0.3 + struck(1, peak=150, keep=120))
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "The burst peaked at")
        self.assertContains(page, "that could have been kept")
        self.assertAlmostEqual(page.context["fast"].working.bpm, 96, delta=3)
        words = page.context["fast"].words
        self.client.post(reverse("ladders:of"), {"words": words, "by": "week"})
        made = Ladder.objects.get().spec
        self.assertEqual(made["rule"], {"kind": "week", "clean": 3, "by": 5})
        self.assertEqual(made["vary"]["from"], page.context["fast"].working.bpm)

    def test_every_exercise_has_a_probe_on_its_own_notes(self) -> None:
        """From its ladder and from its reading; what it finds feeds the ladder, a new one's start, and Today."""
        drill = plain(silence=None, bpm=80, grid=4, cycles=8)
        exercise = exercise_for(player=local_player(), drill=validate(drill), origin="")
        take = send(self.client, drill, schedule(validate(drill)).seconds(schedule(validate(drill)).notes.tick))
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "How fast does it go?")
        ready = self.client.get(page.context["fast_url"])
        self.assertContains(ready, "Stop when a hand hurts")
        probe = ready.context["plan"]
        self.assertEqual(len(probe["cycle_ends"]), probe["drill"]["cycles"])
        plan = schedule(validate(probe["drill"]))
        self.assertEqual(plan.drill.part.grid, 4)
        found = send(self.client, probe["drill"], hands(plan, 120), origin=probe["origin"])
        self.assertEqual(found.exercise, exercise)
        told = self.client.get(found.get_absolute_url())
        working = told.context["fast"].working
        self.assertAlmostEqual(working.bpm, 0.8 * 122, delta=7)
        self.assertTrue(working.low_bpm <= working.bpm <= working.high_bpm)
        self.assertContains(told, f"at <b>{working.bpm}</b> ({working.low_bpm} to {working.high_bpm})")
        words = page.context["fast_url"].partition("?")[2]
        self.client.post(reverse("ladders:of"), {"words": query({**words_of(plan.drill), "drill": ""}), "by": "tempo"})
        self.client.post(reverse("ladders:of"), {"words": query(words_of(validate(drill))), "by": "tempo"})
        made = Ladder.objects.get(exercise=exercise)
        self.assertEqual(made.core.values[0], working.bpm)
        self.assertContains(self.client.get(made.get_absolute_url()), "four fifths of your ceiling")
        self.assertIn(f"drill={exercise.word}", words)

    def test_today_plays_a_drill_at_the_tempo_to_work_at(self) -> None:
        drill = shelf()["every-beat"].drill
        exercise = exercise_for(player=local_player(), drill=drill, origin="every-beat")
        plan = schedule(validate(parse_qs_drill(self.client, probe_address(drill, exercise))))
        take = send(self.client, plan.drill.plain(), hands(plan, 100), origin=exercise.word)
        a_routine({"name": "Every beat", "block": "warm-up", "minutes": 2}, minutes=10)
        with at(take.started_at.replace(year=2026, month=11, day=26)):
            line = self.client.get("/today/").context["today"].lines[0]
        working = self.client.get(take.get_absolute_url()).context["fast"].working
        self.assertIn(f"bpm={working.bpm}", line.item.url)
        self.assertIn("four fifths of your ceiling", line.item.why)

    def test_a_probe_is_over_as_soon_as_it_is_known(self) -> None:
        drill = plain(silence=None, bpm=80, grid=2)
        plan = schedule(probe_of(validate(drill)))
        ends = [float(plan.seconds(plan.body_tick + plan.cycle_ticks * k)) for k in range(1, plan.drill.cycles + 1)]
        onsets_s = hands(plan, 120, place_s=0.0)
        onsets_s = onsets_s[onsets_s < ends[19]]
        take_id = uuid4()
        self.assertEqual(post(self.client, f"/takes/{take_id}/begin/", begin_body(plan.drill.plain())).status_code, 200)
        post(self.client, f"/takes/{take_id}/batches/0/", notes_body(onsets_s))
        told = [self.client.get(f"/takes/{take_id}/parted/", {"at": end}).json()["parted"] for end in ends]
        first = told.index(True)
        start = plan.body_tick + plan.cycle_ticks * first
        bpm = plan.bpm_between(start, start + plan.cycle_ticks)
        self.assertAlmostEqual(bpm, 126, delta=12)  # two cycles beyond what the hands can
        self.assertFalse(any(told[:4]))
        self.assertFalse(self.client.get(f"/takes/{take_id}/parted/?at=x").json()["parted"])

    def test_too_little_is_said(self) -> None:
        take = self.send("burst-alone", np.linspace(1, 6, 8))
        self.assertContains(self.client.get(take.get_absolute_url()), "before the first pause; a burst needs 16")

    def test_other_takes_are_not_told_of_it(self) -> None:
        take = self.send("every-beat", np.linspace(1, 6, 8))
        self.assertIsNone(self.client.get(take.get_absolute_url()).context["fast"])
