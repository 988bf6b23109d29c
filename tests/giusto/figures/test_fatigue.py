"""First third beside last: by hand, by the formula of second differences, and where it is not asked."""

from __future__ import annotations

from math import exp, hypot, log, sqrt
from typing import Any
from unittest import TestCase

import numpy as np

from giusto.figures.fatigue import Fatigue, fatigue
from giusto.figures.tendency import SPREAD_PERCENT
from giusto.missing import Missing
from giusto.pooling import pool

NO_SILENCES = dict(middle_s=np.empty(0), tempo_percent=np.empty(0), tempo_var=np.empty(0))
TIME_S = np.arange(121.0)  # thirds end at 40 and 80


def told(error_ms: Any, time_s: Any = TIME_S, **silences: Any) -> Fatigue:
    """Return what is told, which must be there."""
    found = fatigue(np.asarray(error_ms), np.asarray(time_s), **(silences or NO_SILENCES))
    assert isinstance(found, Fatigue), found
    return found


class FatigueTests(TestCase):
    def test_errors_that_go_to_and_fro(self) -> None:
        """+a, −a, +a: each second difference is 4a, so that the spread is a·√(16/6); the middle third doesn't count."""
        size = np.select([TIME_S < 40, TIME_S < 80], [1.0, 50.0], 3.0)
        found = told(size * (-1.0) ** np.arange(121))
        self.assertAlmostEqual(found.spread_first_ms, sqrt(16 / 6), places=3)
        self.assertAlmostEqual(found.spread_last_ms, 3 * sqrt(16 / 6), places=3)
        self.assertAlmostEqual(found.spread_ratio, 3.0, places=3)

    def test_the_range_of_the_ratio(self) -> None:
        """By correlations of −2/3 and 1/6 (the docstring): 40 and 41 notes are 38 and 39 second differences."""
        found = told((-1.0) ** np.arange(121))
        sd = sqrt((1 + 2 * (4 / 9 + 1 / 36)) / 2 * (1 / 38 + 1 / 39))
        for end, sign in zip(found.spread_ratio_ci95, (-1, 1), strict=True):
            self.assertAlmostEqual(log(end), sign * 1.96 * sd, delta=2e-3)

    def test_that_range_holds_for_white_noise(self) -> None:
        """The logarithm of the ratio scatters as its formula says (500 draws: 2 standard errors are 6 %)."""
        rng = np.random.default_rng(4)
        logs = [log(told(rng.standard_normal(121)).spread_ratio) for _ in range(500)]
        low, high = told(rng.standard_normal(121)).spread_ratio_ci95
        self.assertAlmostEqual(float(np.std(logs)) / (log(high / low) / 2 / 1.96), 1.0, delta=0.1)

    def test_a_drift_is_no_spread(self) -> None:
        still, drifting = ((-1.0) ** np.arange(121) + slope * TIME_S for slope in (0.0, 30.0))
        self.assertEqual(told(still), told(drifting))

    def test_tempo_of_the_last_silences_less_that_of_the_first(self) -> None:
        """What stands at a border belongs to what follows it; the middle third doesn't count."""
        middle_s = np.array([20.0, 39.9, 40.0, 79.9, 80.0, 110.0])
        percent, var = np.array([1.0, 1.2, 9.0, 9.0, -1.0, -0.6]), np.full(6, 0.01)
        found = told(np.zeros(121), middle_s=middle_s, tempo_percent=percent, tempo_var=var)
        before, after = (pool(two, [0.01, 0.01], scale=SPREAD_PERCENT) for two in ([1.0, 1.2], [-1.0, -0.6]))
        half = hypot(*((one.ci95[1] - one.ci95[0]) / 2 for one in (before, after)))
        self.assertAlmostEqual(found.tempo_change_percent or 0.0, -1.9, delta=0.01)
        assert found.tempo_change_ci95_percent
        low, high = found.tempo_change_ci95_percent
        self.assertAlmostEqual((low + high) / 2, found.tempo_change_percent or 0.0, places=2)
        self.assertAlmostEqual((high - low) / 2, half, places=2)

    def test_silences_of_one_third_alone_tell_no_change(self) -> None:
        for middle_s in ([10.0, 20.0], [90.0, 100.0], [50.0, 60.0]):
            found = told(
                np.zeros(121), middle_s=np.array(middle_s), tempo_percent=np.ones(2), tempo_var=np.full(2, 0.01)
            )
            self.assertIsNone(found.tempo_change_percent)
            self.assertIsNone(found.tempo_change_ci95_percent)

    def test_two_minutes_and_twenty_four_differences(self) -> None:
        none: dict[str, Any] = NO_SILENCES
        self.assertIsInstance(fatigue(np.zeros(121), TIME_S, **none), Fatigue)
        self.assertEqual(
            fatigue(np.zeros(121), TIME_S * 0.999, **none), Missing("fatigue", "short-take", 120 * 0.999, 120.0)
        )
        for notes, is_told in ((26, True), (25, False)):
            first = np.linspace(0, 39, notes)
            time_s = np.concatenate([first, [50, 60], np.linspace(80, 120, 40)])
            found = fatigue(np.zeros(time_s.size), time_s, **none)
            self.assertEqual(isinstance(found, Fatigue), is_told)
            if not is_told:
                self.assertEqual(found, Missing("fatigue", "few-in-a-third", 25, 26))
        self.assertEqual(fatigue(np.empty(0), np.empty(0), **none), Missing("fatigue", "short-take", 0.0, 120.0))

    def test_no_spread_at_all_is_no_ratio(self) -> None:
        found = told(np.zeros(121))
        self.assertEqual((found.spread_ratio, found.spread_first_ms), (1.0, 0.001))
        self.assertGreater(found.spread_ratio_ci95[1], exp(0.1))
