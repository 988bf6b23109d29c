"""Stamps of the page's clock, brought onto the audio clock."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from scipy.stats import theilslopes

from giusto.errors import GiustoError
from giusto.notes.clock_line import fit_clocks, theil_sen


def pairs(n: int = 400, *, noise_ms: float = 0.04, outliers: int = 12, rate: float = 1e-6) -> np.ndarray:
    """Return pairs as browsers give them (measured): SD 0.04 ms, now and then 2 ms off."""
    rng = np.random.default_rng(1)
    page_ms = 3000 + 250.0 * np.arange(n)
    audio_s = (page_ms * (1 + rate) - 2500 + rng.normal(0, noise_ms, n)) / 1000
    audio_s[rng.choice(n, outliers, replace=False)] += 0.002
    return np.column_stack([audio_s, page_ms])


class TheilSenTests(TestCase):
    def test_as_scipy_has_it(self) -> None:
        rng = np.random.default_rng(7)
        for size in (2, 3, 40):
            x = np.round(rng.uniform(0, 5, size), 1)  # some of them twice
            y = 3 - 0.2 * x + rng.standard_t(1, size)
            assert_allclose(theil_sen(x, y), theilslopes(y, x)[:2], rtol=1e-12, atol=1e-12)


class ClockFitTests(TestCase):
    def test_stamps_come_out_right_in_spite_of_outliers(self) -> None:
        stamps_ms = np.linspace(5000, 90_000, 50)
        truth_s = (stamps_ms * (1 + 1e-6) - 2500) / 1000
        assert_allclose(fit_clocks(pairs()).audio_s(stamps_ms), truth_s, rtol=0, atol=2e-5)

    def test_same_as_numpy_where_nothing_is_off(self) -> None:
        clean = pairs(outliers=0)
        slope, start = np.polyfit(clean[:, 1], clean[:, 0], 1)
        stamps_ms = np.array([4000.0, 50_000.0])
        assert_allclose(fit_clocks(clean).audio_s(stamps_ms), start + slope * stamps_ms, rtol=0, atol=1e-6)

    def test_a_moment_of_the_page_counts_once(self) -> None:
        twice = np.vstack([pairs(20, outliers=0), np.add(pairs(20, outliers=0)[5:9], [0.001, 0.0])])
        self.assertEqual(fit_clocks(twice).page_ms.tolist(), pairs(20)[:, 1].tolist())

    def test_a_short_take_is_not_tilted_by_its_noise(self) -> None:
        # Twelve pairs in a quarter of a second; a note 20 s later must still come out right.
        short = pairs(400, outliers=0)[:1].repeat(12, axis=0)
        rng = np.random.default_rng(2)
        step_ms = np.arange(12) * 20.0
        short = short + np.column_stack([(step_ms + rng.normal(0, 0.04, 12)) / 1000, step_ms])
        stamp_ms = short[0, 1] + 20_000
        truth_s = (stamp_ms * (1 + 1e-6) - 2500) / 1000
        assert_allclose(fit_clocks(short).audio_s(stamp_ms), truth_s, rtol=0, atol=1e-3)

    def test_a_rate_is_drawn_to_none_as_far_as_the_pairs_leave_it_open(self) -> None:
        """Of pairs on a line of 2e-4: least squares with a normal prior of SD 1e-4 on the rate, by its formula."""
        for count in (4, 40):
            page_ms = 1000 + 100.0 * np.arange(count)
            rows = np.column_stack([page_ms / 1000 * (1 + 2e-4), page_ms])
            apart_s = (page_ms - page_ms.mean()) / 1000
            spread = float(apart_s @ apart_s)
            self.assertAlmostEqual(fit_clocks(rows).rate / (2e-4 * spread / (spread + 0.25)), 1.0, places=5)

    def test_a_stumbling_sound_is_followed(self) -> None:
        # Ten buffers of 10 ms lost at once in the middle, and one more later: every click after
        # them is heard late, so the notes are to be measured against that.
        stumbling = pairs(600)
        stumbling[:, 1] = 3000 + 100.0 * np.arange(600)
        rng = np.random.default_rng(4)
        lost_ms = np.where(np.arange(600) >= 300, 100.0, 0.0) + np.where(np.arange(600) >= 450, 10.0, 0.0)
        stumbling[:, 0] = (stumbling[:, 1] - 2500 - lost_ms + rng.normal(0, 0.04, 600)) / 1000
        stumbling[[50, 380], 0] += 0.002
        fit = fit_clocks(stumbling)
        assert_allclose(fit.stumbled_ms, 110, rtol=0, atol=1)
        at_ms = np.array([10_000.0, 30_000.0, 40_000.0, 60_000.0])
        truth_s = (at_ms - 2500 - [0, 0, 100, 110]) / 1000
        assert_allclose(fit.audio_s(at_ms), truth_s, rtol=0, atol=1.5e-4)
        self.assertEqual(fit_clocks(pairs()).stumbled_ms, 0)

    def test_two_pairs_are_a_clock(self) -> None:
        """Of a rate that its prior draws to nothing; rows that are no numbers, or of no sound, are none."""
        rows = np.array([(np.nan, 500.0), (0.0, 900.0), (1.0, 1000.0), (np.inf, 1500.0), (2.0, 2000.0), (3.0, np.nan)])
        self.assertAlmostEqual(float(fit_clocks(rows).audio_s(1500.0)), 1.5, places=6)

    def test_clocks_from_half_as_fast_to_half_as_fast_again(self) -> None:
        for speed, is_clock in ((0.49, False), (0.5, True), (1.5, True), (1.51, False)):
            page_ms = 1000 * np.arange(1.0, 9.0)
            rows = np.column_stack([5 + speed * page_ms / 1000, page_ms])
            with self.subTest(speed):
                if is_clock:
                    fit_clocks(rows)
                else:
                    with self.assertRaisesRegex(GiustoError, f"clock pairs make {speed:.2f} audio seconds a second"):
                        fit_clocks(rows)

    def test_ten_pairs_off_the_line_are_a_stumble_and_nine_are_none(self) -> None:
        """A hump of 5 ms in the middle of four hundred pairs: its running median is as long as itself."""
        for length, is_stumble in ((9, False), (10, True)):
            page_ms = 3000 + 250.0 * np.arange(400)
            audio_s = (page_ms - 2500) / 1000
            audio_s[200 : 200 + length] += 0.005
            self.assertEqual(fit_clocks(np.column_stack([audio_s, page_ms])).stumbled_ms > 0, is_stumble, length)

    def test_pairs_from_before_the_sound_ran_are_left_out(self) -> None:
        early = np.vstack([np.zeros((5, 2)), pairs()])
        assert_allclose(fit_clocks(early).offset_s, fit_clocks(pairs()).offset_s, rtol=0, atol=1e-12)

    def test_too_few_or_senseless_pairs(self) -> None:
        twice_as_fast = [(1.0, 1000.0), (3.0, 2000.0), (5.0, 3000.0)]
        for bad in ([], [(1.0, 1000.0)], [(0.0, 0.0)] * 9, [(1.0, 1000.0)] * 9, twice_as_fast):
            with self.subTest(n=len(bad)), self.assertRaises(GiustoError) as caught:
                fit_clocks(bad)
            self.assertEqual(caught.exception.code, "clock_pairs")
