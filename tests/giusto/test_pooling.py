"""Random effects: by hand, and beside statsmodels."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from statsmodels.stats.meta_analysis import combine_effects

from giusto.pooling import pool, pool_each


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

    def test_many_at_once_are_the_same_as_one_by_one(self) -> None:
        rng = np.random.default_rng(5)
        v = rng.uniform(0.5, 9.0, (12, 20))
        y = rng.normal(3.0, 4.0, (12, 20))
        for row, kept in enumerate(rng.integers(1, 21, 12)):
            y[row, kept:] = v[row, kept:] = np.nan
        mean, low, high, spread = pool_each(y, v, scale=4.0)
        for row in range(12):
            there = np.isfinite(y[row])
            one = pool(y[row, there], v[row, there], scale=4.0)
            assert_allclose((mean[row], low[row], high[row]), (one.mean, *one.ci95), rtol=1e-7, atol=1e-7)
            self.assertAlmostEqual(spread[row], one.spread, places=7)
