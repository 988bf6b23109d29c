"""Tempo from taps: by hand, and ranges that hold."""

from unittest import TestCase

import numpy as np

from giusto.errors import GiustoError
from giusto.notes.taps import tapped_tempo


class TapTests(TestCase):
    def test_hand_worked(self) -> None:
        found = tapped_tempo([0.0, 0.6, 1.2, 1.8])
        self.assertEqual((found.bpm, found.used, found.strays), (100.0, 4, 0))

    def test_one_stray_tap_and_one_left_out(self) -> None:
        clean = np.arange(9) * 0.5
        self.assertEqual(tapped_tempo(np.sort(np.append(clean, 1.73))).bpm, 120.0)
        self.assertEqual(tapped_tempo(np.delete(clean, 4)).bpm, 120.0)

    def test_the_range_counts_beats_and_not_taps(self) -> None:
        """Every second of even taps left out in one place: two beats there, and the range is nothing wide."""
        low, high = tapped_tempo(np.delete(np.arange(9) * 0.5, 4)).ci95_bpm or (0.0, 0.0)
        self.assertEqual((low, high), (120.0, 120.0))

    def test_a_stray_is_further_than_a_quarter_of_a_beat_from_the_others(self) -> None:
        for off, strays in ((0.1, 0), (0.12, 0), (0.13, 1), (0.25, 1)):
            taps = np.arange(9) * 0.5
            taps[4] += off
            with self.subTest(off):
                self.assertEqual(tapped_tempo(taps).strays, strays)

    def test_a_range_takes_four_taps(self) -> None:
        """Intervals of .55, .6 and .65 s: their SD is .05, Student's t of two degrees 4.303 (table)."""
        self.assertIsNone(tapped_tempo([0.0, 0.55, 1.15]).ci95_bpm)
        low, high = tapped_tempo([0.0, 0.55, 1.15, 1.8]).ci95_bpm or (0.0, 0.0)
        half = 4.303 * 0.05 / 3**0.5
        self.assertAlmostEqual(low, 60 / (0.6 + half), delta=0.01)
        self.assertAlmostEqual(high, 60 / (0.6 - half), delta=0.01)

    def test_too_few(self) -> None:
        self.assertIsNone(tapped_tempo([]).bpm)
        self.assertIsNone(tapped_tempo([1.0]).bpm)
        self.assertEqual((tapped_tempo([1.0, 1.5]).bpm, tapped_tempo([1.0, 1.5]).ci95_bpm), (120.0, None))
        self.assertIsNone(tapped_tempo([1.0, 1.0]).bpm)

    def test_bad_taps(self) -> None:
        with self.assertRaises(GiustoError):
            tapped_tempo([2.0, 1.0])

    def test_ranges_hold_the_true_tempo(self) -> None:
        """Two-level tappers with a stray tap now and then: at least 95 in 100 ranges hold the truth."""
        rng = np.random.default_rng(8)
        inside = 0
        for _ in range(300):
            period_s, n = rng.uniform(0.3, 1.2), int(rng.integers(5, 13))
            clock = np.cumsum(period_s * (1 + rng.normal(0, 0.02, n)))
            taps = clock + rng.normal(0, 0.006, n)
            if rng.random() < 0.3:
                taps = np.sort(np.append(taps, rng.uniform(taps[0], taps[-1])))
            low, high = tapped_tempo(np.sort(taps)).ci95_bpm or (np.nan, np.nan)
            inside += low <= 60 / period_s <= high
        self.assertGreaterEqual(inside / 300, 0.93)
