"""How a drift came: bends by hand and by draws of the model, and the words that their ranges allow."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giusto.figures.drift_shape import (
    FEWEST_IN_A_SILENCE,
    FEWEST_JUMPS,
    JUMP_SHARE,
    STEADY_SHARE,
    Bend,
    DriftShape,
    _contrast_var,
    bend,
    came,
    drift_shape,
)
from giusto.missing import Missing

TIME_MS = 1000 + 300 * np.arange(16.0)
UNEVEN_MS = 1000 + np.cumsum([0.0, *[150.0, 150.0, 300.0, 450.0, 150.0] * 3])  # a figure, with more notes at first


class BendTests(TestCase):
    def test_a_parabola_on_any_straight_way(self) -> None:
        for time_ms in (TIME_MS, UNEVEN_MS):
            u = (time_ms - time_ms[0]) / (time_ms[-1] - time_ms[0])
            for height, slope, level in ((12.0, 0.0, 0.0), (12.0, 0.02, -40.0), (-7.0, -0.01, 5.0)):
                error_ms = height * 4 * u * (1 - u) + slope * time_ms + level
                found = bend(error_ms, time_ms, clock=0.01, hand_ms=5)
                assert found
                self.assertAlmostEqual(found.bend_ms, height, places=6)

    def test_its_variance_is_that_of_players_of_the_model(self) -> None:
        """A thousand ways of a clock and a hand each: a standard deviation is told within 2.2 %, three allowed."""
        rng = np.random.default_rng(7)
        for clock, hand_ms, time_ms in ((0.0, 6.0, TIME_MS), (0.03, 0.0, UNEVEN_MS), (0.02, 5.0, TIME_MS)):
            bends, steps_ms = [], np.diff(time_ms)
            for _ in range(1000):
                way_ms = np.concatenate([[0.0], np.cumsum(steps_ms * clock * rng.standard_normal(15))])
                found = bend(way_ms + hand_ms * rng.standard_normal(16), time_ms, clock=clock, hand_ms=hand_ms)
                assert found
                bends.append(found.bend_ms)
            with self.subTest(clock=clock, hand_ms=hand_ms):
                self.assertAlmostEqual(float(np.std(bends)) / found.sd_ms, 1.0, delta=0.067)

    def test_a_contrasts_variance_by_the_full_covariance(self) -> None:
        """Any weights: errors share the steps of the clock up to the earlier of them, and have a hand each."""
        weight = np.random.default_rng(3).normal(size=UNEVEN_MS.size)
        walked = np.concatenate([[0.0], np.cumsum((0.03 * np.diff(UNEVEN_MS)) ** 2)])
        covariance = np.minimum.outer(walked, walked) + 25.0 * np.eye(weight.size)
        found = _contrast_var(weight, UNEVEN_MS, 0.03, 5.0)
        self.assertAlmostEqual(found / float(weight @ covariance @ weight), 1.0, places=9)

    def test_a_leap_at_the_first_click(self) -> None:
        """A straight way of 20 ms a second whose first click, 600 ms before the first note, lay at 10 ms, not at 4."""
        error_ms = 10 + 0.02 * (TIME_MS - 400)
        found = bend(error_ms, TIME_MS, clock=0.01, hand_ms=5, start=(400.0, 4.0))
        assert found
        self.assertAlmostEqual(found.jump_ms, 6.0, places=6)
        self.assertAlmostEqual(found.bend_ms, 0.0, places=6)

    def test_six_notes(self) -> None:
        few = FEWEST_IN_A_SILENCE
        self.assertIsNotNone(bend(np.zeros(few), TIME_MS[:few], clock=0.01, hand_ms=5))
        self.assertIsNone(bend(np.zeros(few - 1), TIME_MS[: few - 1], clock=0.01, hand_ms=5))


class CameTests(TestCase):
    def test_steadily_only_where_both_ends_are_small(self) -> None:
        """A quarter of a drift of 80 ms is 20: from −8 to 18 is steady, neither from −25 to 3 nor from −3 to 25 is."""
        self.assertEqual(STEADY_SHARE, 0.25)
        for middle, half, expected in ((5.0, 13.0, "steadily"), (-11.0, 14.0, None), (11.0, 14.0, None)):
            for turn in (1, -1):
                self.assertEqual(came(turn * middle, half / 1.96, turn * 80.0), expected, (middle, turn))

    def test_leaps_take_four_silences_and_more_than_half_the_drift(self) -> None:
        self.assertEqual((FEWEST_JUMPS, JUMP_SHARE), (4, 0.5))
        for count, share, is_told in ((4, 0.8, True), (3, 0.8, False), (4, 0.45, False)):
            for turn in (1, -1):
                jumps = turn * 60 * share + np.linspace(-1, 1, count)
                found = drift_shape([Bend(0.0, 400.0, float(one)) for one in jumps], [turn * 60.0] * count)
                assert isinstance(found, DriftShape)
                self.assertEqual(found.way == "at once", is_told, (count, share, turn))

    def test_leaps_that_scatter_are_none(self) -> None:
        jumps = [10.0, 90.0, -30.0, 110.0]
        found = drift_shape([Bend(0.0, 400.0, one) for one in jumps], [60.0] * 4)
        assert isinstance(found, DriftShape)
        self.assertNotEqual(found.way, "at once")

    def test_a_leap_is_told_by_students_range(self) -> None:
        """Of four leaps whose deviation is 1.155 ms the range is 3.182 · 1.155 / 2 = 1.84 ms about their mean."""
        for beyond_ms, is_told in ((1.75, False), (1.95, True)):
            jumps = 30 + beyond_ms + np.array([-1.0, -1.0, 1.0, 1.0])
            found = drift_shape([Bend(0.0, 400.0, float(one)) for one in jumps], [60.0] * 4)
            assert isinstance(found, DriftShape)
            self.assertEqual(found.way == "at once", is_told)

    def test_a_bend_is_small_beside_the_drift_of_one_silence(self) -> None:
        """Bends of about nothing, known to some 18 ms: little beside a drift of 160 ms, not beside one of 60."""
        for drift_ms, way in ((60.0, None), (160.0, "steadily")):
            found = drift_shape([Bend(0.0, 400.0)] * 5, [drift_ms] * 5)
            assert isinstance(found, DriftShape)
            self.assertEqual(found.way, way)

    def test_bends_are_turned_by_the_drift(self) -> None:
        """Late drifts that bulge and early ones that sag below came early alike; what differs is the sign."""
        for turn in (1, -1):
            found = drift_shape([Bend(turn * 25.0, 4.0)] * 5, [turn * 60.0] * 5)
            assert isinstance(found, DriftShape)
            self.assertAlmostEqual(found.bend_ms, 25.0, places=2)
            self.assertEqual((found.way, found.silences), ("at once", 5))
            growing = drift_shape([Bend(turn * -25.0, 4.0)] * 5, [turn * 60.0] * 5)
            assert isinstance(growing, DriftShape)
            self.assertEqual(growing.way, "growing")
        self.assertEqual(drift_shape([], []), Missing("course", "few-bends"))
