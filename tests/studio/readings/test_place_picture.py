"""The large view of a take with the click throughout: its notes about the click, its place, two notes in three."""

from __future__ import annotations

import numpy as np
from django.test import TestCase

from giusto.drill import validate
from giusto.practice.judge import judge
from giusto.reading import analyse
from giusto.schedule import schedule
from studio.readings.place_picture import EDGE, WIDTH, draw_place
from tests.drills import plain
from tests.studio.playing import send

DRILL = plain(silence=None, cycles=12)
PLAN = schedule(validate(DRILL))


def played(place_ms: float, spread_ms: float) -> np.ndarray:
    """Return notes about the click."""
    asked_s = PLAN.seconds(PLAN.notes.tick)
    noise = np.random.default_rng(5).standard_normal(asked_s.size)
    found: np.ndarray = np.maximum(asked_s + (place_ms + spread_ms * noise) / 1000, 0.0)
    return found


class PlacePictureTests(TestCase):
    def test_place_band_and_notes_lie_where_the_figures_say(self) -> None:
        found = analyse(PLAN, played(-24.0, 9.0)).reading
        verdict = judge(PLAN, found).verdict
        picture = draw_place(found, verdict)
        assert picture is not None
        assert verdict.place_ms is not None
        assert verdict.spread_ms is not None
        a_ms = (WIDTH / 2 - EDGE) / picture.scale_ms
        self.assertAlmostEqual(picture.place_x, picture.zero_x + a_ms * verdict.place_ms, delta=0.1)
        self.assertAlmostEqual(picture.band_width, 2 * a_ms * verdict.spread_ms, delta=0.2)
        self.assertEqual((picture.side, len(picture.dots)), ("early", len(found.matches)))
        within = [picture.band_x <= dot.x <= picture.band_x + picture.band_width for dot in picture.dots]
        self.assertAlmostEqual(float(np.mean(within)), 0.68, delta=0.1)
        self.assertTrue(all(EDGE - 0.1 <= dot.x <= WIDTH - EDGE + 0.1 for dot in picture.dots))

    def test_the_page_shows_it_large_with_its_figures(self) -> None:
        take = send(self.client, DRILL, played(-24.0, 9.0))
        page = self.client.get(f"{take.get_absolute_url()}?view=standing")
        self.assertContains(page, "standing-place")
        self.assertRegex(page.content.decode(), r"2[345]\xa0ms early|2[345]&nbsp;ms early")
        self.assertContains(page, "most within")
