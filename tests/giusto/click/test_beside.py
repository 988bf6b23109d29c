"""The click laid beside a recording: to the sample, by the recorder's clock, softer where it was withheld."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giusto.click.beside import click_beside
from giusto.click.voice import click_at
from tests.drills import planned

RATE_HZ = 22_050  # no rate that clicks are made at


class BesideTests(TestCase):
    def test_each_click_and_each_that_was_withheld(self) -> None:
        """Two bars heard, two silent at 120: eight clicks, eight withheld, a second into the recording."""
        plan = planned(bpm=120, cycles=4, count_in=0, close=0)
        quiet = np.zeros(10 * RATE_HZ)
        found = click_beside(quiet, RATE_HZ, plan, voice="wood", first_s=0.5, zero_s=1.0, rate=1.0001)
        click = click_at("wood", RATE_HZ)
        at_s = np.arange(16) * 0.5
        frames = np.round((1.0 + at_s * 1.0001 - 0.5) * RATE_HZ).astype(int)
        levels = [np.max(np.abs(found[at : at + click.size])) / np.max(np.abs(click)) for at in frames]
        np.testing.assert_allclose(levels, [0.025] * 8 + [0.0125] * 8, rtol=1e-6)
        for at in frames:
            found[at : at + click.size] = 0
        self.assertEqual(np.count_nonzero(found), 0)

    def test_nothing_is_louder_than_full_scale(self) -> None:
        loud = np.ones(RATE_HZ)
        found = click_beside(loud, RATE_HZ, planned(), voice="low", first_s=0.0, zero_s=0.0)
        self.assertEqual((found.size, found.max()), (RATE_HZ, 1.0))
