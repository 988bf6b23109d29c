"""The recorder's clock by clicks whose times are written down: numpy's line, strays left out, what is no bleed."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from scipy import stats

from giusto.hearing.recorder_clock import FEWEST_CLICKS, LEAST_FOUND, MOST_PPM, ClockLine, line_through

AT_S = np.arange(0.0, 60.0, 0.5)


def heard(*, zero_s: float = 1.25, ppm: float = 80.0, sd_s: float = 1e-4, seed: int = 1) -> np.ndarray:
    """Return when clicks are heard by a recorder that runs so much faster."""
    return zero_s + AT_S * (1 + ppm * 1e-6) + np.random.default_rng(seed).normal(0, sd_s, AT_S.size)


class LineTests(TestCase):
    def test_there_and_back(self) -> None:
        line = ClockLine(1.25, (1.25, 1.25), 400.0, None, "bleed")
        assert_allclose(line.recorded_s(np.array([0.0, 100.0])), [1.25, 101.29])
        assert_allclose(line.drill_s(line.recorded_s(AT_S)), AT_S)
        self.assertEqual(ClockLine(0.0, (0.0, 0.0), None, None, "notes").rate, 1.0)

    def test_the_line_is_numpys_where_nothing_strays(self) -> None:
        found_s = heard()
        line = line_through(AT_S, found_s, 1.0)
        assert line
        assert line.ppm is not None
        slope, start = np.polyfit(AT_S, found_s, 1)
        self.assertAlmostEqual(line.ppm, 1e6 * (slope - 1), delta=1.0)
        self.assertAlmostEqual(line.zero_s, start, delta=2e-5)
        self.assertEqual((line.by, line.alike), ("bleed", 1.0))

    def test_ranges_hold_the_truth_and_are_those_of_least_squares(self) -> None:
        """SE of a slope: sd / √Σ(x − mean)² (handbook of regression, from memory)."""
        inside = []
        for seed in range(60):
            line = line_through(AT_S, heard(seed=seed), 1.0)
            assert line
            assert line.ppm_ci95
            inside.append(
                line.ppm_ci95[0] <= 80 <= line.ppm_ci95[1] and line.zero_ci95_s[0] <= 1.25 <= line.zero_ci95_s[1]
            )
            half = (line.ppm_ci95[1] - line.ppm_ci95[0]) / 2
            self.assertAlmostEqual(half / (1.96e6 * 1e-4 / np.sqrt(np.sum((AT_S - AT_S.mean()) ** 2))), 1, delta=0.5)
        self.assertGreaterEqual(np.mean(inside), 0.85)

    def test_echoes_that_are_timed_in_place_of_their_clicks_move_nothing(self) -> None:
        strays = heard()
        strays[::6] += 0.007
        line, plain = line_through(AT_S, strays, 1.0), line_through(AT_S, heard(), 1.0)
        assert line
        assert plain
        self.assertAlmostEqual(line.zero_s, plain.zero_s, delta=1e-4)
        strays[::3] += 0.007  # every third, and every sixth twice as far: too few agree
        self.assertIsNone(line_through(AT_S, strays, 1.0))

    def test_what_is_no_bleed(self) -> None:
        self.assertIsNone(line_through(AT_S[: FEWEST_CLICKS - 1], heard()[: FEWEST_CLICKS - 1], 1.0))
        self.assertIsNotNone(line_through(AT_S[:FEWEST_CLICKS], heard()[:FEWEST_CLICKS], 1.0))
        self.assertIsNone(line_through(AT_S, heard(), LEAST_FOUND - 0.01))
        self.assertIsNotNone(line_through(AT_S, heard(), LEAST_FOUND))
        self.assertIsNone(line_through(AT_S, heard(sd_s=1e-3), 1.0))  # notes near the clicks, and no clicks
        self.assertIsNone(line_through(AT_S, heard(ppm=MOST_PPM + 50), 1.0))
        self.assertIsNone(line_through(np.full(8, 1.0), np.full(8, 2.0), 1.0))

    def test_slope_start_and_their_ranges_beside_scipys(self) -> None:
        """``scipy.stats.linregress``, its standard errors with the normal quantile."""
        for seed in range(3):
            found_s = heard(seed=seed)
            line, expected = line_through(AT_S, found_s, 0.8), stats.linregress(AT_S, found_s)
            assert line
            assert line.ppm is not None
            assert line.ppm_ci95
            self.assertAlmostEqual(line.ppm, 1e6 * (expected.slope - 1), places=6)
            self.assertAlmostEqual(line.zero_s, expected.intercept, places=9)
            half = 1.959964 * expected.stderr * 1e6
            assert_allclose(line.ppm_ci95, (line.ppm - half, line.ppm + half), rtol=1e-5)
            half_s = 1.959964 * expected.intercept_stderr
            assert_allclose(line.zero_ci95_s, (line.zero_s - half_s, line.zero_s + half_s), rtol=1e-8)
            self.assertEqual(line.alike, 0.8)

    def test_no_click_is_timed_better_than_a_sample(self) -> None:
        line = line_through(AT_S, 1.25 + AT_S, 1.0)
        assert line
        self.assertGreater(line.zero_ci95_s[1] - line.zero_s, 1.9 * 2e-5 / np.sqrt(AT_S.size))

    def test_three_in_four_must_agree(self) -> None:
        for strays, is_found in ((30, True), (31, False)):
            found_s = heard()
            found_s[:: 120 // strays][:strays] += 0.05 + 0.01 * np.arange(strays)
            self.assertEqual(line_through(AT_S, found_s, 1.0) is not None, is_found, strays)

    def test_as_fast_as_is_allowed(self) -> None:
        for ppm, is_found in ((995.0, True), (-995.0, True), (1005.0, False), (-1005.0, False)):
            line = line_through(AT_S, heard(ppm=ppm, sd_s=1e-6), 1.0)
            self.assertEqual(line is not None, is_found, ppm)
