"""The bench over takes counts what it says, and a small run of it keeps the bars."""

from unittest import TestCase

import numpy as np
from scipy.special import ndtri

from giusto.returns.drift import HELD_SHARE
from giusto.simulation.over_takes_benchmark import (
    ReachTally,
    bands,
    called_clean,
    changes,
    ladders,
    reaches,
    rush_maps,
    silent_drill,
    true_reach,
)
from giusto.simulation.player import SimulatedPlayer, simulate
from giusto.simulation.reach_at_best import reach_at_best


class TruthTests(TestCase):
    def test_a_true_reach_is_held_three_times_in_four(self) -> None:
        """Of a thousand returns from a silence just as long: the walk, the lean, and where the click left the clock."""
        for player, notes in (
            (SimulatedPlayer(clock_percent=2.2, hand_ms=8.0, alpha=0.4, bias_percent=0.3), 2),
            (SimulatedPlayer(clock_percent=1.1, hand_ms=20.0, alpha=0.4), 1),
        ):
            beats = true_reach(player, notes, 96)
            silent = round((beats - 1) / 4)
            plan = silent_drill(96, notes, silent)
            back = np.concatenate([simulate(plan, player, seed=seed).return_s for seed in range(400)]) / plan.beat_s
            with self.subTest(beats=beats, silent=silent):
                near = np.interp(beats, (4 * silent - 1, 4 * silent + 3), (0.0, 1.0))
                self.assertAlmostEqual(float(np.mean(np.abs(back) <= HELD_SHARE)), 0.75 + 0.2 * (near - 0.5), delta=0.1)

    def test_a_tally_by_hand(self) -> None:
        tally = ReachTally([0.3, -0.1], [True, False])
        self.assertAlmostEqual(tally.bias, 0.1)
        self.assertAlmostEqual(tally.rms, (0.05) ** 0.5)
        self.assertEqual(tally.covered, 50)

    def test_nobody_tells_a_reach_better_than_one_who_sees_true_returns(self) -> None:
        """A steady walk, 4,000 returns: what is left open is next to nothing; of six, as much as the prior lets be."""
        rng = np.random.default_rng(5)
        walk, start = 0.012, 0.01
        truth = ((HELD_SHARE / float(ndtri(0.875))) ** 2 - start**2) / walk**2
        for silences, allowed in ((4_000, 0.1), (6, 1.5)):
            beats = rng.choice([4.0, 8.0, 16.0], silences)
            back = np.sqrt(start**2 + walk**2 * beats) * rng.standard_normal(silences)
            found = reach_at_best(beats, back, lambda walks: np.full(walks.shape, start**2))
            with self.subTest(silences):
                self.assertLess(abs(np.log2(found / truth)), allowed)


class SmallRunTests(TestCase):
    """Wider than the bars of the whole bench, which docs/accuracy.md reports."""

    def test_reach(self) -> None:
        rows = list(reaches(seed=2, players=2))
        self.assertEqual([(hand, takes) for hand, takes, _ in rows[:2]], [(4.0, 10), (4.0, 40)])
        many = [off for _, takes, tally in rows if takes == 40 for off in tally.off]
        self.assertLess(abs(float(np.mean(many))), 0.4)
        expected = [off for _, takes, tally in rows if takes == 40 for off in tally.off_expected]
        self.assertEqual(len(expected), len(many))
        self.assertLess(abs(float(np.mean(expected))), 0.6)

    def test_clean_is_said_as_often_as_it_is(self) -> None:
        rows = called_clean(seed=2, players=12)
        said = sum(chance * takes for chance, _, takes in rows) / sum(takes for *_, takes in rows)
        truly = sum(share * takes for _, share, takes in rows) / sum(takes for *_, takes in rows)
        self.assertAlmostEqual(said, truly, delta=0.12)

    def test_ladders_beside_a_judge_who_knows_the_truth(self) -> None:
        rows = list(ladders(seed=2, players=2))
        self.assertEqual([(one.clean, one.sd_ms) for one in rows[:4]], [(0.9, 5), (0.9, 10), (0.9, 15), (0.5, 5)])
        able, unable = rows[:3], rows[3:]
        self.assertLess(sum(one.takes for one in able), 1.8 * sum(one.takes_by_truth for one in able))
        self.assertLess(sum(one.rungs for one in unable), 1.5 * sum(one.rungs_by_truth for one in unable) + 1)
        self.assertLess(max(one.rungs for one in unable), 4)

    def test_change_maps_and_band(self) -> None:
        false, found = changes(seed=2, players=30)
        self.assertLessEqual(false, 20)
        self.assertGreaterEqual(found, 45)
        self.assertTrue(all(shown <= 25 for _, shown in rush_maps(seed=2, maps=8)))
        for _, _, right, clean in bands(seed=2, learners=2):
            self.assertGreater(right, 25)
            self.assertTrue(60 <= clean <= 95)
