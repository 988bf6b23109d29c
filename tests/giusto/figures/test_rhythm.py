"""Rhythm apart from time, and how a drift came."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.figures.drift_shape import bend, came, drift_shape
from giusto.figures.rhythm import _lengths, rhythm
from giusto.missing import Missing
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer
from giusto.timekeeper.solution import solve
from giusto.timekeeper.take import Sizes
from tests.drills import planned
from tests.giusto.takes import silent_chain, taken
from tests.reference import golden


class LengthTests(TestCase):
    def test_lengths_and_their_ranges_by_hand(self) -> None:
        """Of 300 ms each, the middle 6 ms late: 102 and 98 %. Errors of 3 and 4 ms make 5; beside an exact one, 4."""
        first, second = _lengths(["0", "1/2", "1"], [0.0, 300.0, 600.0], [0.0, 6.0, 0.0], [9.0, 16.0, 0.0])
        self.assertEqual((first.start, first.end, first.percent, second.percent), ("0", "1/2", 102.0, 98.0))
        halves = [(one.ci95_percent[1] - one.ci95_percent[0]) / 2 for one in (first, second)]
        self.assertAlmostEqual(halves[0] / halves[1], 5 / 4, delta=0.01)
        self.assertTrue(1.9 < halves[0] / (100 * 5 / 300) < 2.2)


class RhythmTests(TestCase):
    def test_a_rhythm_is_not_smeared_into_tempo(self) -> None:
        """The golden figure: all notes make 509.47 ms a beat, those on the beat 509.9, sixteenths 18.76 early."""
        q, error = np.array(golden.SET_R_BEATS), np.array(golden.SET_R_ERROR_MS, float)
        interval = 510.0
        take = replace(
            silent_chain(error, interval), interval_ms=np.diff(q) * interval, in_beat=(q % 1 == 0.75).astype(int)
        )
        solution = solve(take, Sizes(clock=1e-4, hand_ms=3.0, alpha=0.0))
        drift, _ = solution.drift(take.ends[:1], take.ends[1:])
        assert_allclose(interval + drift[0] / 8, golden.SET_R_BEAT_SLOPE_MS, rtol=0, atol=0.1)
        assert_allclose(solution.effects[1], golden.SET_R_SIXTEENTHS_MS, rtol=0, atol=0.1)

    def test_swing_by_hand(self) -> None:
        # Offbeats 52.1 ms late at 96: 364.6 over 260.4 ms is 1.4 to 1.
        plan = planned()
        onsets = plan.seconds(plan.notes.tick).copy()
        onsets[1::2] += 0.0521
        reading = analyse(plan, onsets).reading
        assert reading.swing
        assert reading.lengths
        assert reading.rhythm
        assert_allclose(reading.swing.ratio, 1.4, rtol=0, atol=0.01)
        assert_allclose([length.percent for length in reading.lengths], [116.7, 83.3], rtol=0, atol=0.2)
        assert_allclose(reading.rhythm[0].mean_ms, 52.1, rtol=0, atol=0.2)

    def test_only_a_pair_of_halves_is_swung(self) -> None:
        """A dotted figure, three parts, and a half that is played four times or three."""
        none = np.zeros(3)
        for ticks, is_swung in (
            ([0] * 9 + [2] * 9, True),
            ([0] * 9 + [3] * 9, False),
            ([0] * 9 + [2] * 9 + [3] * 9, False),
            ([0] * 9 + [2] * 4, True),
            ([0] * 9 + [2] * 9 + [3] * 3, True),
        ):
            size = np.unique(ticks).size
            found = rhythm(np.array(ticks), none[:size], none[:size], ticks_per_beat=4, beat_ms=500.0)
            assert not isinstance(found, Missing), ticks
            self.assertEqual(found.swing is not None, is_swung, ticks)
        few = rhythm(np.array([0] * 9 + [2] * 3), none[:2], none[:2], ticks_per_beat=4, beat_ms=500.0)
        self.assertEqual(few, Missing("rhythm", "beats-only"))

    def test_nothing_to_lean_against(self) -> None:
        found = rhythm(np.array([1] * 9), np.zeros(1), np.zeros(1), ticks_per_beat=2, beat_ms=500.0)
        self.assertEqual(found, Missing("rhythm", "few-on-the-beat"))

    def test_crushed_groups_of_sixteenths(self) -> None:
        plan = planned(grid=4)
        onsets = plan.seconds(plan.notes.tick).copy()
        onsets[3::4] -= 0.020
        lengths = analyse(plan, onsets).reading.lengths or []
        assert_allclose([length.percent for length in lengths], [100, 100, 87.2, 112.8], rtol=0, atol=0.3)


class CourseTests(TestCase):
    def test_three_ways(self) -> None:
        t = np.arange(33) * 312.5
        u = t / t[-1]
        cases = (("at once", 80 * np.minimum(u * 6, 1)), ("steadily", 80 * u), ("growing", 80 * u**3))
        for way, errors in cases:
            with self.subTest(way):
                found = bend(errors, t, clock=0.01, hand_ms=5.0)
                assert found is not None
                four = drift_shape([found] * 4, [80.0] * 4)
                self.assertEqual(four and four.way, way)

    def test_said_only_where_the_notes_allow(self) -> None:
        self.assertIsNone(came(10.0, 8.0, 60.0))
        self.assertIsNone(bend(np.zeros(4), np.arange(4.0), clock=0.02, hand_ms=8.0))

    def test_the_variance_is_that_of_simulated_silences(self) -> None:
        rng = np.random.default_rng(3)
        t = np.arange(17) * 500.0
        bends = []
        for _ in range(4000):
            walk = np.concatenate([[0.0], np.cumsum(rng.normal(0, 10.0, 16))])
            found = bend(walk + rng.normal(0, 6.0, 17), t, clock=0.02, hand_ms=6.0)
            assert found is not None
            bends.append(found.bend_ms)
        assert_allclose(np.var(bends), found.variance, rtol=0.08, atol=0)

    def test_false_ways_are_rare(self) -> None:
        """Players who lean steadily are seldom said to do otherwise."""
        ways = [s.course for seed in range(48) for s in taken(SimulatedPlayer(bias_percent=-1.5), seed=seed).silences]
        self.assertLessEqual(sum(way in ("at once", "growing") for way in ways), 0.1 * len(ways))
