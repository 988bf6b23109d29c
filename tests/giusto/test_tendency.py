"""What takes share: pooling, tendency, habit, and what earlier takes let expect."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from statsmodels.stats.meta_analysis import combine_effects

from giusto.habit import habit, usual
from giusto.pooling import pool
from giusto.reading import Reading, analyse
from giusto.simulate import Player, simulate
from giusto.sizes import WEAK, Seen, prior_from
from giusto.tendency import tendency, verdict_of
from tests.drills import fixed, planned
from tests.giusto.takes import taken


class PoolingTests(TestCase):
    def test_one_estimate_keeps_its_own_error_and_the_spread_that_may_be(self) -> None:
        found = pool([2.0], [0.01], scale=0.5)
        self.assertAlmostEqual(found.mean, 2.0, places=6)
        self.assertGreater(found.ci95[1] - found.ci95[0], 2 * 1.96 * 0.1)

    def test_combine_effects_of_statsmodels(self) -> None:
        """With many estimates the prior on the spread no longer matters: DerSimonian–Laird agrees."""
        rng = np.random.default_rng(4)
        v = rng.uniform(0.02, 0.2, 60)
        y = rng.normal(-0.7, np.sqrt(0.3**2 + v))
        theirs = combine_effects(y, v, method_re="iterated").summary_frame().loc["random effect"]
        found = pool(y, v, scale=0.5)
        assert_allclose(found.mean, theirs["eff"], rtol=0, atol=0.01)
        assert_allclose(found.ci95, (theirs["ci_low"], theirs["ci_upp"]), rtol=0, atol=0.02)

    def test_what_all_share_does_not_average_out(self) -> None:
        found = pool(np.zeros(200), np.full(200, 0.01), scale=0.1, shared=0.4)
        self.assertGreater(found.ci95[1], 1.9 * 0.4)


class TendencyTests(TestCase):
    def test_signs_and_words(self) -> None:
        # A clock set 1 % slow gains 10 ms a second on the grid: late, so the tempo deviation is −0.99 %.
        found = tendency(np.full(6, 0.01), np.full(6, 1e-7))
        assert found is not None
        assert_allclose(found.tempo_percent, 100 * (1 / 1.01 - 1), rtol=0, atol=1e-3)
        self.assertEqual((found.verdict, found.silences), ("dragging", 6))
        self.assertIsNone(tendency(np.empty(0), np.empty(0)))

    def test_too_wide_to_tell(self) -> None:
        self.assertEqual(verdict_of((-1.2, 0.9)), "unclear")

    def test_unbiased_players_are_seldom_accused(self) -> None:
        accused = [
            found.tendency.verdict in ("rushing", "dragging")
            for found in (taken(Player(), seed=seed, cycles=12) for seed in range(24))
            if found.tendency
        ]
        self.assertLessEqual(sum(accused), 2)  # the bench counts many more

    def test_the_lean_is_recovered(self) -> None:
        for bias in (-2.0, 1.5):
            found = taken(Player(bias_percent=bias), seed=3, silence=fixed(2, 4), cycles=36).tendency
            assert found is not None
            low, high = found.ci95_percent
            self.assertTrue(low <= bias <= high)
            self.assertEqual(found.verdict, "rushing" if bias > 0 else "dragging")


class HabitTests(TestCase):
    def test_habit_narrows_and_expectation_does_not(self) -> None:
        rng = np.random.default_rng(5)

        def takes(n: int) -> list[tuple[np.ndarray, np.ndarray]]:
            return [(rng.normal(rng.normal(-1.0, 0.3), 0.4, 4), np.full(4, 0.05)) for _ in range(n)]

        few, many = habit(takes(4)), habit(takes(36))
        assert not isinstance(few, str)
        assert not isinstance(many, str)
        width = [f.ci95_percent[1] - f.ci95_percent[0] for f in (few, many)]
        self.assertLess(width[1], width[0])
        self.assertEqual(many.verdict, "dragging")
        self.assertGreater(many.expected_percent[1] - many.expected_percent[0], 1.5)
        self.assertIn("a habit needs 3", str(habit(takes(2))))

    def test_usual(self) -> None:
        self.assertIsNone(usual([1.0, 2.0]))
        found = usual([10.0, 11.0, 12.0, 13.0, 14.0])
        assert found is not None
        self.assertEqual((found.middle, found.n), (12.0, 5))

    def test_earlier_takes_make_the_prior(self) -> None:
        self.assertIs(prior_from([]), WEAK)
        seen = Seen((np.log(0.012), np.log(5.0), 0.0), (0.1, 0.1, 0.3))
        known = prior_from([seen] * 10)
        assert_allclose(known.centre[:2], seen.free[:2], rtol=0, atol=0.1)
        self.assertTrue(np.all(known.spread <= WEAK.spread))
        self.assertTrue(np.all(known.spread >= 0.12))

    def test_a_take_with_a_history_is_read_no_wider(self) -> None:
        plan = planned(cycles=8)
        player = Player(clock_percent=1.0, hand_ms=5.0)
        earlier = [analyse(plan, simulate(plan, player, seed=s).onsets_s).sizes for s in range(8)]
        onsets = simulate(plan, player, seed=99).onsets_s
        weak, known = (
            analyse(plan, onsets).reading,
            analyse(plan, onsets, prior=prior_from([s for s in earlier if s])).reading,
        )

        def width(reading: Reading) -> float:
            return float(np.mean([np.ptp(s.ci95_ms) for s in reading.silences if s.ci95_ms]))

        self.assertLess(width(known), 1.02 * width(weak))
