"""Figures week by week: pooled, with their course; by hand, by simulation, and beside statsmodels."""

from datetime import date, timedelta
from math import log
from unittest import TestCase

import numpy as np
from scipy import stats
from statsmodels.stats.meta_analysis import combine_effects

from giusto.figures.place import Place
from giusto.figures.tendency import Tendency
from giusto.hearing.inputs import Input
from giusto.practice.course import Course
from giusto.practice.over_takes.figures import (
    BY_WEEK,
    CLOCK,
    LEAN,
    PLACE,
    SINCE_FIRST,
    SPREAD,
    Followed,
    course_of,
    pooled,
)
from giusto.practice.over_takes.weekly import changes, monday_of, over_weeks
from tests.giusto.practice.over_takes import facts, figures

MONDAY = date(2026, 10, 5)


def leaning(day: float, percent: float, half: float = 0.4):  # type: ignore[no-untyped-def]
    lean = Tendency(percent, (percent - half, percent + half), 4, "dragging")
    return facts(day, figures=figures(tendency=lean))


class FiguresTests(TestCase):
    def test_each_of_a_take_by_hand(self) -> None:
        take = facts()
        slot_ms = 60_000 / 96 / 2
        lean = LEAN.told(take)
        assert lean
        self.assertEqual(lean[0], -1.0)
        self.assertAlmostEqual(lean[1], (0.4 / 1.96) ** 2, delta=1e-4)
        clock = CLOCK.told(take)
        assert clock
        self.assertAlmostEqual(clock[0], log(100 * 6.0 / slot_ms), places=9)  # a share of a slot, as a logarithm
        spread = SPREAD.told(take)
        assert spread
        self.assertAlmostEqual(spread[0], log(100 * 9.0 / slot_ms), places=9)
        self.assertEqual(PLACE.told(take) and PLACE.told(take)[0], -8.0)  # type: ignore[index]

    def test_what_a_take_does_not_tell_is_none(self) -> None:
        nothing = facts(figures=None, place_ms=None)
        few = facts(figures=figures(heard=Place(n=2, sd_ms=5.0), tendency=None, sizes=None))
        for followed in {*BY_WEEK, *SINCE_FIRST}:
            self.assertIsNone(followed.told(nothing), followed.key)
            if followed is not PLACE:
                self.assertIsNone(followed.told(few), followed.key)

    def test_pooled_is_wider_for_the_lean_and_none_for_too_few(self) -> None:
        takes = [leaning(day, -1.0) for day in range(4)]
        found = pooled(LEAN, takes, fewest=3)
        assert found
        self.assertAlmostEqual(found.value, -1.0, places=6)
        self.assertEqual(found.takes, 4)
        self.assertTrue(found.ci95[0] < -1.0 < found.ci95[1])
        self.assertIsNone(pooled(LEAN, takes[:2], fewest=3))


class WeeksTests(TestCase):
    def test_a_week_is_the_pooled_mean_of_its_takes(self) -> None:
        """Beside statsmodels' random effects (Paule-Mandel): within a tenth of the range's width."""
        rng = np.random.default_rng(4)
        takes = [leaning(day / 2, float(rng.normal(-1, 0.5))) for day in range(12)]
        week = over_weeks(LEAN, takes, MONDAY, 2).weeks[0]
        assert week.value is not None
        assert week.ci95
        told = [one for take in takes if (one := LEAN.told(take))]
        beside = combine_effects(*np.array(told).T, method_re="iterated").summary_frame().loc["random effect"]
        self.assertEqual(week.takes, 12)
        self.assertLess(abs(week.value - beside["eff"]), 0.1 * (week.ci95[1] - week.ci95[0]))
        together = pooled(LEAN, takes, fewest=3)  # as wide as what is said of all takes
        assert together
        np.testing.assert_allclose(week.ci95, together.ci95, atol=0.01)

    def test_too_few_are_said_and_not_filled_in(self) -> None:
        found = over_weeks(LEAN, [leaning(0, -1), leaning(1, -1)], MONDAY, 2)
        self.assertEqual([(week.takes, week.value) for week in found.weeks], [(2, None), (0, None)])
        self.assertIsNone(found.course)

    def test_the_days_fall_into_their_weeks(self) -> None:
        takes = [leaning(day, -1) for day in (0, 6.2, 7, 8, 9)]
        found = over_weeks(LEAN, takes, MONDAY, 2)
        self.assertEqual([week.takes for week in found.weeks], [2, 3])
        self.assertEqual(found.weeks[1].monday, MONDAY + timedelta(weeks=1))
        self.assertEqual(monday_of(MONDAY + timedelta(days=6)), MONDAY)

    def test_a_size_is_told_as_one(self) -> None:
        found = over_weeks(CLOCK, [facts(day) for day in range(3)], MONDAY, 1).weeks[0]
        self.assertAlmostEqual(found.value or 0, 100 * 6.0 / (60_000 / 96 / 2), places=6)

    def test_no_change_is_called_more_than_chance_as_often_as_five_in_a_hundred(self) -> None:
        """Courses of players who never change: 60 of them, at most 8 called (binomial, 5 %: P(more) = 0.4 %)."""
        generator = np.random.default_rng(7)
        called = 0
        for _ in range(60):
            values = generator.normal(0.5, np.hypot(0.2, 0.25), 24)
            takes = [facts(2 * k, place_ms=float(value)) for k, value in enumerate(values)]
            found = course_of(Followed("x", "heard", lambda take: (take.place_ms or 0.0, 0.04), 0.3), takes, figures=1)
            assert isinstance(found, Course)
            called += found.more_than_chance
        self.assertLessEqual(called, 8)
        self.assertLess(float(stats.binom.sf(8, 60, 0.05)), 0.005)


class ChangesTests(TestCase):
    def test_another_device_input_or_drill_is_marked_in_its_week(self) -> None:
        takes = [
            facts(day, input=by, browser=browser, name=name)
            for day, by, browser, name in (
                (0, Input.KEYS, "a", "One"),
                (1, Input.KEYS, "a", "One"),
                (8, Input.KEYS, "b", "One"),
                (9, Input.MIDI, "b", "Two"),
                (10, Input.MIDI, "b", "Two"),
            )
        ]
        self.assertEqual(changes(takes), {MONDAY + timedelta(weeks=1): ["device", "input", "drill:Two"]})
