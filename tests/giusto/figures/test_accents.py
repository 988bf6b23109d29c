"""Accents played against accents asked: by hand, beside scipy, and through a whole reading."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from scipy.stats import t, ttest_rel

from giusto.figures.accents import accents
from giusto.notes.record import notes_of
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned

CYCLES = np.repeat(np.arange(1, 7), 4)
ACCENTED = np.tile([True, False, False, False], 6)


class AccentsTests(TestCase):
    def test_by_hand(self) -> None:
        found = accents(np.tile([0.9, 0.5, 0.5, 0.5], 6), CYCLES, ACCENTED)
        assert found is not None
        self.assertEqual((found.n, found.stronger, found.ci95, found.heard_percent), (6, 0.4, (0.4, 0.4), 100.0))

    def test_the_range_is_that_of_a_paired_test(self) -> None:
        """scipy.stats.ttest_rel on each bar's accent and the mean of its others."""
        strength = np.random.default_rng(4).uniform(0.2, 0.9, 24)
        found = accents(strength, CYCLES, ACCENTED)
        assert found is not None
        strong, others = strength[ACCENTED], strength[~ACCENTED].reshape(6, 3).mean(axis=1)
        told = ttest_rel(strong, others)
        self.assertAlmostEqual(found.stronger, float(np.mean(strong - others)), places=4)
        half = float(t.ppf(0.975, 5)) * abs(found.stronger / told.statistic)
        np.testing.assert_allclose(found.ci95, (found.stronger - half, found.stronger + half), rtol=0, atol=2e-3)

    def test_a_bar_without_accents_or_without_others_tells_nothing(self) -> None:
        strength = np.tile([0.9, 0.5, 0.5, 0.5], 6)
        strength[:4], strength[4] = [0.1, np.nan, np.nan, np.nan], np.nan
        found = accents(strength, CYCLES, ACCENTED)
        assert found is not None
        self.assertEqual((found.n, found.stronger, found.heard_percent), (4, 0.4, 100.0))

    def test_a_take_that_grows_has_no_accents(self) -> None:
        found = accents(np.linspace(0.2, 0.9, 24), CYCLES, np.tile([False, True, False, False], 6))
        assert found is not None
        self.assertAlmostEqual(found.stronger, 0.0, delta=0.03)

    def test_without_strengths_or_with_few_bars_there_are_none(self) -> None:
        self.assertIsNone(accents(np.full(24, np.nan), CYCLES, ACCENTED))
        self.assertIsNone(accents(np.full(12, 0.5), CYCLES[:12], ACCENTED[:12]))

    def test_in_a_reading_where_the_click_is_accented_heard_or_not(self) -> None:
        plan = planned(accent="first", cycles=8)
        onsets_s = simulate(plan, SimulatedPlayer(hand_ms=4.0), seed=2).onsets_s
        beat_s = 60 / 96
        on_one = np.abs((onsets_s / (4 * beat_s) + 0.5) % 1 - 0.5) * 4 * beat_s < 0.1
        strength = np.where(on_one, 0.8, 0.5)
        found = analyse(plan, notes_of(onsets_s, strength=strength)).reading.accents
        assert found is not None
        self.assertAlmostEqual(found.stronger, 0.3, delta=0.01)
        self.assertGreaterEqual(found.n, 8)
        self.assertIsNone(analyse(plan, onsets_s).reading.accents)
        unaccented = planned(cycles=8)
        self.assertIsNone(analyse(unaccented, notes_of(onsets_s, strength=strength)).reading.accents)
