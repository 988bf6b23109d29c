"""The drift over takes: against a mixed model of statsmodels, by hand, and as older takes fade."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
import statsmodels.api as sm
from numpy.testing import assert_allclose

from giusto.returns.drift import AHEAD, NONE, WALK, drift_as, drift_of, fading, quantiles
from tests.giusto.returns import Bridging


class DriftTests(TestCase):
    def test_a_mixed_model_of_statsmodels_finds_the_same(self) -> None:
        """Returns over the root of length and a beat have one spread κ, and a slope on it that differs by take."""
        player = Bridging(
            walk=0.02, lean=0.005, apart=0.004, sd=0.0, start=0.004
        )  # so wide that σ0 is next to nothing beside it
        returns = player.returns(150, lengths=(2.0, 4.0, 6.0, 8.0), seed=2)
        root = np.sqrt(AHEAD + returns.beats)
        slope = (returns.beats / root)[:, None]
        percent = 100 * returns.return_beats / root  # about 1: statsmodels looks for it no smaller
        fitted = sm.MixedLM(percent, slope, groups=returns.take, exog_re=slope).fit(reml=True)
        drift = drift_of(returns)
        mean, error = float(fitted.fe_params[0]) / 100, float(fitted.bse_fe[0]) / 100
        low, middle, high = drift.lean_quantiles((0.025, 0.5, 0.975))
        self.assertAlmostEqual(middle, mean, delta=0.3 * error)
        self.assertAlmostEqual((high - low) / (2 * 1.96), error, delta=0.2 * error)
        assert_allclose(drift.weight @ drift.walk, np.sqrt(fitted.scale) / 100, rtol=0.04)
        assert_allclose(drift.weight @ drift.apart, np.sqrt(float(fitted.cov_re[0, 0])) / 100, rtol=0.25)

    def test_what_is_known_beforehand_is_known_without_returns(self) -> None:
        drift = drift_of(NONE)
        self.assertAlmostEqual(float(drift.weight.sum()), 1.0)
        (middle,) = quantiles(drift.walk, drift.weight, (0.5,))
        assert_allclose(middle, WALK, rtol=0.1)
        self.assertEqual(drift.lean.tolist(), [0.0] * drift.lean.size)

    def test_older_takes_fade(self) -> None:
        """Twenty wide takes long ago and twenty narrow ones now: the walk is that of now."""
        then, now = Bridging(walk=0.04).returns(20, seed=3), Bridging(walk=0.008).returns(20, seed=4)
        both = replace(
            now,
            take=np.concatenate([then.take, 20 + now.take]),
            beats=np.concatenate([then.beats, now.beats]),
            return_beats=np.concatenate([then.return_beats, now.return_beats]),
            sd_beats=np.concatenate([then.sd_beats, now.sd_beats]),
            weight=np.repeat(fading([300.0, 0.0]), 20),
        )
        alike = replace(both, weight=np.ones(40))
        walks = [float(one.weight @ one.walk) for one in map(drift_of, (both, now, alike))]
        assert_allclose(walks[0], walks[1], rtol=0.1)
        self.assertGreater(walks[2], 2 * walks[1])

    def test_half_as_many_takes_say_what_twice_as_many_half_as_heavy_do(self) -> None:
        once = Bridging().returns(10, seed=5)
        twice = replace(
            once,
            take=np.concatenate([once.take, 10 + once.take]),
            beats=np.tile(once.beats, 2),
            return_beats=np.tile(once.return_beats, 2),
            sd_beats=np.tile(once.sd_beats, 2),
            weight=np.full(20, 0.5),
        )
        ends = [drift_of(one).reach_quantiles((0.025, 0.5, 0.975)) for one in (once, twice)]
        assert_allclose(ends[0], ends[1], rtol=1e-6)

    def test_a_known_drift_by_hand(self) -> None:
        """κ² · (4 + 1) = .04² and σ0 of .03 beside it: 5 % lies at one standard deviation, .683 of a normal (table)."""
        drift = drift_as(walk=0.04 / np.sqrt(5), walk_log_sd=1e-9, lean=0.0, lean_sd=1e-9, apart=0.0, start=0.03)
        self.assertAlmostEqual(drift.chance(4.0), 0.6827, delta=0.001)

    def test_where_the_click_leaves_the_clock_is_expected_by_how_closely_returns_are_read(self) -> None:
        one = Bridging().of([(0, 4.0, 0.0)])
        starts = [drift_of(replace(one, sd_beats=np.array([sd]))) for sd in (0.01, 0.02, 0.04)]
        middles = [quantiles(drift.start, drift.weight, (0.5,))[0] for drift in starts]
        assert_allclose(np.array(middles) / middles[0], [1.0, 2.0, 4.0], rtol=0.15)

    def test_returns_may_show_that_it_is_otherwise(self) -> None:
        """Read to .012 of a beat, left by the click at .024 and at .002."""
        wide, narrow = (
            drift_of(Bridging(start=start, walk=0.005).returns(60, seed=6, lengths=(1.0, 1.0, 16.0)))
            for start in (0.024, 0.002)
        )
        self.assertGreater(float(wide.weight @ wide.start), 0.012)
        self.assertLess(float(narrow.weight @ narrow.start), 0.007)

    def test_quantiles_lie_between_values_as_straight_lines_go(self) -> None:
        values, weight = np.array([3.0, 1.0, 2.0]), np.array([0.25, 0.25, 0.5])
        self.assertEqual(quantiles(values, weight, (0.125, 0.5, 0.875)), [1.0, 2.0, 3.0])
