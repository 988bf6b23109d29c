"""The lean that a take's silences share."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.figures.tendency import (
    FEWEST_EARLIER,
    lean_percent,
    lean_percent_var,
    lean_range,
    takes_differ,
    tendency,
    verdict_of,
)
from giusto.missing import Missing
from giusto.simulation.player import SimulatedPlayer
from tests.drills import fixed
from tests.giusto.takes import taken


class TendencyTests(TestCase):
    def test_signs_and_words(self) -> None:
        # A clock set 1 % slow gains 10 ms a second on the grid: late, so the tempo deviation is −0.99 %.
        found = tendency(np.full(6, 0.01), np.full(6, 1e-7))
        assert not isinstance(found, Missing)
        assert_allclose(found.tempo_percent, 100 * (1 / 1.01 - 1), rtol=0, atol=1e-3)
        self.assertEqual((found.verdict, found.silences), ("dragging", 6))
        self.assertEqual(tendency(np.empty(0), np.empty(0)), Missing("tendency", "no-silence"))

    def test_the_variance_in_percent_is_that_of_the_slope(self) -> None:
        """By the difference quotient of ``lean_percent``."""
        for lean in (-0.05, 0.0, 0.08):
            slope = (float(lean_percent(lean + 1e-6)) - float(lean_percent(lean - 1e-6))) / 2e-6
            found_var = lean_percent_var(np.array([lean]), np.array([1e-6]))[0]
            self.assertAlmostEqual(found_var / (slope**2 * 1e-6), 1.0, places=5)

    def test_a_range_of_a_lean_is_that_of_its_ends(self) -> None:
        """Late is slow, so that the later end is the lower percent."""
        low, high = lean_range(0.02, 1e-6)
        self.assertAlmostEqual(low, float(lean_percent(0.02 + 1.959964e-3)), places=3)
        self.assertAlmostEqual(high, float(lean_percent(0.02 - 1.959964e-3)), places=3)
        self.assertEqual(lean_range(0.0, -1e-9), (0.0, 0.0))

    def test_a_range_that_touches_nothing_leans_nowhere(self) -> None:
        self.assertEqual([verdict_of(ends) for ends in ((0.0, 0.3), (-0.3, 0.0))], ["steady", "steady"])
        self.assertEqual([verdict_of(ends) for ends in ((0.0, 3.0), (-3.0, 0.0))], ["unclear", "unclear"])

    def test_how_far_takes_lean_apart(self) -> None:
        """Forty players' twenty takes each, 1 % apart in truth: on average told within a sixth, and more for few."""
        rng = np.random.default_rng(6)
        told = []
        for _ in range(40):
            takes = [(rng.normal(mean, 0.3, 4), np.full(4, 0.09)) for mean in rng.normal(0, 1.0, 20)]
            told.append(takes_differ(takes) or 0.0)
        self.assertAlmostEqual(float(np.mean(told)), 1.0, delta=0.17)
        empty = (np.empty(0), np.empty(0))
        self.assertIsNone(takes_differ([*takes[: FEWEST_EARLIER - 1], empty]))
        self.assertIsNotNone(takes_differ([*takes[:FEWEST_EARLIER], empty]))

    def test_too_wide_to_tell(self) -> None:
        self.assertEqual(verdict_of((-1.2, 0.9)), "unclear")

    def test_unbiased_players_are_seldom_accused(self) -> None:
        accused = [
            found.tendency.verdict in ("rushing", "dragging")
            for found in (taken(SimulatedPlayer(), seed=seed, cycles=12) for seed in range(24))
            if found.tendency
        ]
        self.assertLessEqual(sum(accused), 2)  # the bench counts many more

    def test_the_lean_is_recovered(self) -> None:
        for bias in (-2.0, 1.5):
            found = taken(SimulatedPlayer(bias_percent=bias), seed=3, silence=fixed(2, 4), cycles=36).tendency
            assert found is not None
            low, high = found.ci95_percent
            self.assertTrue(low <= bias <= high)
            self.assertEqual(found.verdict, "rushing" if bias > 0 else "dragging")
