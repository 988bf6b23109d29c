"""Calibration: the round trip in a simulated loop, to one sample; taps, their delay and what follows no click."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from scipy import stats

from giusto.click.voice import click_samples
from giusto.errors import GiustoError
from giusto.hearing.delay import LEAST_SD_S, SYSTEMATIC_S, _rough_s, calibration_clicks, round_trip, tapping_delay
from giusto.hearing.sound import Samples
from giusto.ranges import Z95

RATE_HZ = 48_000


def loop(delay_s: float, *, noise_db: float | None, gain: float = 0.2, seed: int = 1) -> tuple[Samples, np.ndarray]:
    """Return what a microphone hears of the calibration's clicks, and when each was sent."""
    sent_s = 0.5 + calibration_clicks()
    found = np.zeros(round((sent_s[-1] + 1.5) * RATE_HZ))
    click = gain * click_samples("wood", "click", rate_hz=RATE_HZ).astype(np.float64)
    for at in np.round((sent_s + delay_s) * RATE_HZ).astype(int).tolist():
        found[at : at + click.size] += click
    if noise_db is not None:
        found += 10 ** (noise_db / 20) * np.random.default_rng(seed).standard_normal(found.size)
    return Samples(found, RATE_HZ), np.round(sent_s * RATE_HZ) / RATE_HZ


class RoundTripTests(TestCase):
    def test_to_one_sample_in_a_loop_without_noise(self) -> None:
        for delay_s in (0.0, 0.0104, 0.043, 0.31):
            sound, sent_s = loop(delay_s, noise_db=None)
            found = round_trip(sound, sent_s, voice="wood")
            self.assertLess(abs(found.delay_s - delay_s), 1 / RATE_HZ)
            self.assertEqual(found.n, 20)

    def test_to_a_third_of_a_millisecond_with_noise_and_its_range_holds_it(self) -> None:
        for noise_db in (-50.0, -35.0):
            for seed in range(5):
                sound, sent_s = loop(0.0371, noise_db=noise_db, gain=0.1, seed=seed)
                found = round_trip(sound, sent_s, voice="wood")
                self.assertLess(abs(found.delay_s - 0.0371), 0.0003)
                low_s, high_s = found.ci95_s
                self.assertTrue(low_s - 5e-5 <= 0.0371 <= high_s + 5e-5)

    def test_without_noise_its_range_is_what_the_method_itself_may_be_off(self) -> None:
        """However late the clicks come: it is their spread that widens it, not where they lie."""
        for delay_s in (0.0104, 0.31):
            found = round_trip(*loop(delay_s, noise_db=None), voice="wood")
            least = float(np.hypot(Z95 * LEAST_SD_S / np.sqrt(20), SYSTEMATIC_S))
            np.testing.assert_allclose(np.ptp(found.ci95_s) / 2, least, rtol=0.02)

    def test_a_microphone_that_hears_no_click_is_told(self) -> None:
        sent_s = 0.5 + calibration_clicks()
        noise = Samples(0.01 * np.random.default_rng(2).standard_normal(13 * RATE_HZ), RATE_HZ)
        for nothing in (noise, Samples(np.zeros(13 * RATE_HZ), RATE_HZ), Samples(np.zeros(0), RATE_HZ)):
            with self.assertRaisesRegex(GiustoError, "the clicks are not heard|clicks are heard in the microphone"):
                round_trip(nothing, sent_s, voice="wood")


class TappingTests(TestCase):
    def test_the_mean_and_students_range(self) -> None:
        """Beside scipy's one-sample t interval."""
        clicks_s = calibration_clicks()
        late_s = np.random.default_rng(5).normal(0.062, 0.011, clicks_s.size)
        found = tapping_delay(clicks_s + late_s, clicks_s)
        expected = stats.ttest_1samp(late_s, 0.0).confidence_interval(0.95)
        self.assertAlmostEqual(found.delay_s, float(late_s.mean()), places=9)
        np.testing.assert_allclose(found.ci95_s, (expected.low, expected.high), rtol=0, atol=1e-9)

    def test_a_late_device_and_some_strays(self) -> None:
        clicks_s = calibration_clicks()
        taps_s = np.sort(np.concatenate([clicks_s[2:] + 0.28, [1.03, 4.7]]))
        found = tapping_delay(taps_s, clicks_s)
        self.assertAlmostEqual(found.delay_s, 0.28, delta=0.02)

    def test_too_few_and_taps_that_follow_no_click(self) -> None:
        clicks_s = calibration_clicks()
        with self.assertRaisesRegex(GiustoError, "5 of 5 taps came with a click, 12 and most of them are needed"):
            tapping_delay(clicks_s[:5] + 0.03, clicks_s)
        with self.assertRaisesRegex(GiustoError, "taps"):
            tapping_delay(np.zeros(0), clicks_s)
        with self.assertRaisesRegex(GiustoError, "taps came with a click|follow no click"):
            tapping_delay(np.arange(0, 10, 0.37), clicks_s)

    def test_where_enough_begins(self) -> None:
        """Twelve of them, and three in four of all taps; no farther than 100 ms from where most are."""
        clicks_s = calibration_clicks()
        self.assertEqual(tapping_delay(clicks_s[:12] + 0.03, clicks_s).n, 12)
        with self.assertRaisesRegex(GiustoError, "11 of 11 taps"):
            tapping_delay(clicks_s[:11] + 0.03, clicks_s)
        strays_s = clicks_s[0] - 2 - np.arange(5)  # long before the first click
        self.assertEqual(tapping_delay(np.concatenate([strays_s[:4], clicks_s[:12] + 0.03]), clicks_s).n, 12)
        with self.assertRaisesRegex(GiustoError, "12 of 17 taps"):
            tapping_delay(np.concatenate([strays_s, clicks_s[:12] + 0.03]), clicks_s)

    def test_wide_taps_follow_no_click(self) -> None:
        clicks_s = calibration_clicks()
        for apart_s, follows in ((0.055, True), (0.065, False)):
            late_s = np.repeat([0.0, -apart_s, apart_s], [8, 6, 6]) * np.sqrt(19 / 12)  # their spread is what is told
            if follows:
                self.assertEqual(tapping_delay(clicks_s + 0.05 + late_s, clicks_s).n, 20)
            else:
                with self.assertRaisesRegex(GiustoError, "the taps spread by 65 ms: they follow no click"):
                    tapping_delay(clicks_s + 0.05 + late_s, clicks_s)

    def test_the_rough_delay_is_where_most_taps_are(self) -> None:
        clicks_s = np.arange(20) * 2.0
        for late_s in (-0.14, 0.0, 0.2, 0.41):
            self.assertAlmostEqual(_rough_s(clicks_s + late_s, clicks_s), late_s)
        for late_s in (-0.16, 0.43):
            self.assertEqual(_rough_s(clicks_s + late_s, clicks_s), 0.0)
        mixed_s = np.concatenate([clicks_s[:12] + 0.1, clicks_s[12:] + 0.3, clicks_s[:3] + 0.135])
        self.assertAlmostEqual(_rough_s(mixed_s, clicks_s), 0.1)
        self.assertEqual(_rough_s(np.zeros(0), clicks_s), 0.0)

    def test_clicks_are_nowhere_as_far_apart_as_their_neighbours(self) -> None:
        """From .36 to .64 s by the golden section; the mean is half a second."""
        steps_s = np.diff(calibration_clicks())
        self.assertEqual(steps_s.size, 19)
        self.assertGreater(steps_s.min(), 0.359)
        self.assertLess(steps_s.max(), 0.641)
        self.assertAlmostEqual(float(steps_s.mean()), 0.5, delta=0.01)
        self.assertGreater(float(np.min(np.abs(np.diff(steps_s)))), 0.1)
        np.testing.assert_allclose(calibration_clicks(), calibration_clicks().round(4), rtol=0, atol=1e-12)
