"""How much of a heard error is taken back: players of known shares, and what too little tells."""

from unittest import TestCase

import numpy as np

from giusto.figures.correction import FEWEST_HEARD_STEPS, Correction, correction, home_clicks
from giusto.missing import Missing
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from giusto.timekeeper.prior import WEAK
from tests.drills import planned
from tests.giusto.takes import silent_chain


class CorrectionTests(TestCase):
    def test_known_shares_lie_in_their_ranges_in_order(self) -> None:
        plan = planned(grid=1, silence=None, cycles=60)
        found = []
        for alpha in (0.1, 0.4, 0.8):
            player = SimulatedPlayer(clock_percent=2.0, hand_ms=6, alpha=alpha)
            one = analyse(plan, simulate(plan, player, seed=5).onsets_s).reading.correction
            assert one is not None
            self.assertTrue(one.ci95[0] <= alpha <= one.ci95[1], (alpha, one))
            found.append(one.alpha)
        self.assertEqual(found, sorted(found))

    def test_few_heard_steps_tell_nothing(self) -> None:
        chain, near = silent_chain(np.zeros(40), 500.0), np.zeros(3)
        found = correction(chain, WEAK, near, FEWEST_HEARD_STEPS - 1)
        assert isinstance(found, Missing)
        self.assertEqual((found.code, found.have, found.need), ("few-heard-steps", 11, FEWEST_HEARD_STEPS))
        enough = correction(chain, WEAK, WEAK.centre, FEWEST_HEARD_STEPS)
        self.assertEqual(enough, Missing("correction", "vague-correction"))

    def test_a_take_without_clicks_is_vague_however_many_are_claimed(self) -> None:
        """In one long silence there is nothing to correct: what is left is the prior, and that is said."""
        error_ms = np.cumsum(np.random.default_rng(2).normal(0, 8, 60))
        found = correction(silent_chain(error_ms, 500.0), WEAK, WEAK.centre, 60)
        self.assertFalse(isinstance(found, Correction), found)

    def test_clicks_until_a_tenth_is_left(self) -> None:
        """(1 − α)ⁿ ≤ .1 by hand: .9 leaves .1 at once, .5 takes four (.0625); the ends are kept off."""
        self.assertEqual([home_clicks(alpha) for alpha in (0.9, 0.5, 0.684, 1.0)], [1, 4, 2, 1])
        self.assertEqual(home_clicks(0.0), home_clicks(0.01))
