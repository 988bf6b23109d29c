"""The course of a figure over takes: against a weighted regression of statsmodels, and over simulated courses."""

from unittest import TestCase

import numpy as np
import statsmodels.api as sm

from giusto.missing import Missing
from giusto.practice.course import Course, course
from giusto.practice.dependence import Dependence, Side, dependence


class CourseTests(TestCase):
    def test_without_a_spread_it_is_weighted_least_squares(self) -> None:
        """statsmodels' WLS with known variances, whose scale is 1."""
        rng = np.random.default_rng(1)
        at, variance = np.arange(12.0) ** 1.3, rng.uniform(0.5, 2.0, 12)
        y = 3 - 0.2 * at + rng.normal(0, np.sqrt(variance))
        fitted = sm.WLS(y, sm.add_constant(at), weights=1 / variance).fit(cov_type="fixed scale")
        found = course(y, variance, at, scale=1e-6)
        assert isinstance(found, Course)
        change = fitted.params[1] * np.ptp(at)
        half = 1.959964 * fitted.bse[1] * np.ptp(at)
        self.assertAlmostEqual(found.change, change, delta=1e-3)
        np.testing.assert_allclose(found.ci95, (change - half, change + half), rtol=0, atol=2e-3)

    def test_ranges_hold_and_chance_is_not_called_a_change(self) -> None:
        rng = np.random.default_rng(2)
        hits, false = [], []
        for index in range(200):
            change = 0.0 if index % 2 else 0.8
            at = np.sort(rng.uniform(0, 30, 14))
            x = (at - at[0]) / (at[-1] - at[0])
            y = 1 - change * x + rng.normal(0, 0.3, 14) + rng.normal(0, 0.2, 14)
            found = course(y, np.full(14, 0.04), at, scale=0.5)
            assert isinstance(found, Course)
            hits.append(found.ci95[0] <= -change <= found.ci95[1])
            if not change:
                false.append(found.more_than_chance)
        self.assertTrue(0.91 <= np.mean(hits) <= 0.99, np.mean(hits))
        self.assertLessEqual(np.mean(false), 0.1)

    def test_too_few_or_all_at_once_are_no_course(self) -> None:
        self.assertIsInstance(course([1, 2, 3], [1, 1, 1], [0, 1, 2], scale=1), Missing)
        self.assertIsInstance(course([1, 2, 3, 4], [1] * 4, [5] * 4, scale=1), Missing)


class DependenceTests(TestCase):
    def sides(self, ratio: float, *, seed: int = 1, end: float = 1.0) -> list[Side]:
        """Return ten takes on either side; the spread alone goes from ``ratio`` to ``ratio · end`` times the other."""
        rng = np.random.default_rng(seed)
        found = []
        for day in range(10):
            for is_alone in (False, True):
                times = ratio * end ** (day / 9) if is_alone else 1.0
                spread = 3.0 * times * float(np.exp(rng.normal(0, 0.1)))
                found.append(Side(float(day), is_alone, spread, 60))
        return found

    def test_who_leans_on_the_click_is_told_by_how_much(self) -> None:
        found = dependence(self.sides(1.6))
        assert isinstance(found, Dependence)
        self.assertTrue(found.more_than_chance)
        self.assertTrue(found.ci95[0] <= 1.6 <= found.ci95[1])
        assert isinstance(found.course, Course)
        self.assertFalse(found.course.more_than_chance)

    def test_who_does_not_is_seldom_told_so(self) -> None:
        told = [dependence(self.sides(1.0, seed=seed)) for seed in range(40)]
        self.assertLessEqual(sum(isinstance(one, Dependence) and one.more_than_chance for one in told), 4)

    def test_takes_alone_that_come_to_stand_like_the_others(self) -> None:
        found = dependence(self.sides(1.8, end=1 / 1.8))
        assert isinstance(found, Dependence)
        assert isinstance(found.course, Course)
        self.assertTrue(found.course.more_than_chance)
        self.assertLess(found.course.change, 0)
        self.assertAlmostEqual(found.course.latest, 0, delta=0.25)

    def test_too_few_on_either_side(self) -> None:
        self.assertIsInstance(dependence([side for side in self.sides(1.0) if side.is_alone]), Missing)
