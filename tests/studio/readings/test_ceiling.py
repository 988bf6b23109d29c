"""How fast at all: what the page says of a probe and of a burst, and the tempo to work at."""

from __future__ import annotations

import numpy as np
from django.test import TestCase
from django.urls import reverse

from giusto.drill import validate
from giusto.schedule import schedule
from studio.drills.shelf import shelf
from studio.ladders.models import Ladder
from tests.giusto.practice.ceiling.test_burst import struck
from tests.giusto.practice.ceiling.test_probe import hands
from tests.studio.playing import send


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
        self.assertAlmostEqual(page.context["fast"].working_bpm, 0.8 * 142, delta=6)
        alone = schedule(validate(shelf()["burst-alone"].drill.plain()))
        start_s = float(alone.seconds(alone.silences[0].start_tick))
        take = self.send("burst-alone", start_s + 0.3 + struck(1, peak=150, keep=120))
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "The burst peaked at")
        self.assertContains(page, "that could have been kept")
        self.assertAlmostEqual(page.context["fast"].working_bpm, 96, delta=3)
        words = page.context["fast"].words
        self.client.post(reverse("ladders:of"), {"words": words, "by": "week"})
        made = Ladder.objects.get().spec
        self.assertEqual(made["rule"], {"kind": "week", "clean": 3, "by": 5})
        self.assertEqual(made["vary"]["from"], page.context["fast"].working_bpm)

    def test_too_little_is_said(self) -> None:
        take = self.send("burst-alone", np.linspace(1, 6, 8))
        self.assertContains(self.client.get(take.get_absolute_url()), "before the first pause; a burst needs 16")

    def test_other_takes_are_not_told_of_it(self) -> None:
        take = self.send("every-beat", np.linspace(1, 6, 8))
        self.assertIsNone(self.client.get(take.get_absolute_url()).context["fast"])
