"""What earlier takes let expect of the next: their sizes, and how far their leans lie apart."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from giusto.reading import analyse
from giusto.reading.earlier import leans_of, prior_of
from giusto.simulation.player import SimulatedPlayer, simulate
from giusto.timekeeper.prior import WEAK
from tests.drills import fixed, planned

PLAN = planned(bpm=90, silence=fixed(2, 2), cycles=16)


class EarlierTests(TestCase):
    def test_leans_are_those_of_silences_that_can_be_read(self) -> None:
        reading = analyse(PLAN, simulate(PLAN, SimulatedPlayer(bias_percent=-1), seed=1).onsets_s).reading
        unread = replace(reading.silences[0], lean_percent=None, lean_ci95_percent=None)
        lean, variance = leans_of(replace(reading, silences=[unread, *reading.silences[1:]]))
        np.testing.assert_allclose(lean, [one.lean_percent for one in reading.silences[1:]])
        low, high = reading.silences[1].lean_ci95_percent or (0.0, 0.0)
        self.assertAlmostEqual(float(variance[0]), ((high - low) / 2 / 1.96) ** 2, delta=0.02 * float(variance[0]))

    def test_takes_make_the_prior_and_none_are_the_weak_one(self) -> None:
        self.assertEqual(prior_of([]).centre.tolist(), WEAK.centre.tolist())
        player = SimulatedPlayer(clock_percent=0.7, hand_ms=3)
        known = prior_of([analyse(PLAN, simulate(PLAN, player, seed=seed).onsets_s) for seed in range(8)])
        self.assertLess(known.centre[0], WEAK.centre[0])
        self.assertTrue(np.all(known.spread <= WEAK.spread))
