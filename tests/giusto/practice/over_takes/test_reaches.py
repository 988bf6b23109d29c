"""Reach at each tempo, by the silences near it."""

from datetime import timedelta
from math import log
from unittest import TestCase
from uuid import UUID

import numpy as np
from numpy.testing import assert_allclose

from giusto.practice.over_takes.reaches import expected_at, reach_at, reaches, returns_of, tempi
from giusto.practice.reach.by_clock import predicted_reach
from giusto.ranges import Z95
from giusto.returns.drift import start_of
from giusto.timekeeper.prior import Seen
from tests.giusto.practice.over_takes import EVENING, silence


class ReachesTests(TestCase):
    def test_returns_are_told_in_beats_as_they_count_now(self) -> None:
        """62.5 ms at 96 are a tenth of a beat; a range 2 · 1.96 · 1.08 standard errors wide; four weeks count half."""
        some = [
            silence(return_ms=62.5, return_ci95_ms=(62.5 - 1.08 * Z95 * 6.25, 62.5 + 1.08 * Z95 * 6.25)),
            silence(take=UUID(int=2), at=EVENING + timedelta(days=28)),
            silence(outcome="unreadable", return_ms=None, return_ci95_ms=None),
            silence(outcome="unreadable", return_ms=None),
            silence(outcome="unreadable", return_ci95_ms=None),
        ]
        found = returns_of(some, EVENING + timedelta(days=28))
        assert_allclose((found.return_beats[0], found.sd_beats[0]), (0.1, 0.01))
        self.assertEqual(found.take.tolist(), [0, 1])
        assert_allclose(found.weight, [0.5, 1.0])

    def test_tempos_are_told_apart_and_between_them_nothing_is(self) -> None:
        some = [silence(), silence(tempo_bpm=72.0, at=EVENING + timedelta(hours=1)), silence(tempo_bpm=100.0)]
        self.assertEqual(tempi(some), [72.0, 96.0])  # the latest first; 100 is told with 96
        found = reaches(some, EVENING)
        self.assertEqual([(at.bpm, at.reach.silences) for at in found], [(72.0, 1), (96.0, 2)])
        self.assertEqual(reach_at(some, 84.0, EVENING).reach.reason, "no-silences")

    def test_each_length_that_was_tried_has_its_chance(self) -> None:
        found = reach_at([silence(), silence(beats=17.0), silence(beats=9.0)], 96.0, EVENING)
        self.assertEqual([one.beats for one in found.tried], [9.0, 17.0])
        self.assertGreater(found.tried[0].chance, found.tried[1].chance)

    def test_what_clock_and_lean_let_expect_is_told_from_three_takes_on(self) -> None:
        """A clock of 2 % of a slot of two to the beat, no lean: as the forecast of its milliseconds at that tempo."""
        rng = np.random.default_rng(2)
        leans = [(rng.normal(0, 0.1, 4), np.full(4, 0.01)) for _ in range(12)]
        seen = [(2, Seen((log(0.02), log(8.0), 0.0), (0.05, 0.1, 0.5)))] * 12
        returns = returns_of([silence()] * 4, EVENING)
        found = expected_at(96.0, returns, leans, seen)
        assert found
        clock_ms = 0.02 * 60_000 / 96 / 2
        alone = predicted_reach(
            clock_ms,
            (0.99 * clock_ms, 1.01 * clock_ms),
            0.0,
            (-0.01, 0.01),
            bpm=96,
            slots=2,
            start=start_of(returns.sd_beats),
        )
        self.assertAlmostEqual(found.beats / alone.beats, 1.0, delta=0.2)
        self.assertGreater(np.log(np.divide(*found.ci95_beats[::-1])), np.log(np.divide(*alone.ci95_beats[::-1])))
        self.assertIsNone(expected_at(96.0, returns, leans[:2], seen))
        self.assertIsNone(expected_at(96.0, returns, leans, []))
