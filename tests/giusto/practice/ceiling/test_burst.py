"""Bursts whose peak, fade and kept tempo are known; and numpy's own fit of a straight line."""

from unittest import TestCase

import numpy as np

from giusto.practice.ceiling import Burst, Ceiling, Working, burst, working_at
from giusto.practice.ceiling.burst import MOST_HAND, _hand_share, _Line


def struck(
    seed: int, *, peak: float = 160, keep: float = 140, start: float = 3.0, end: float = 8.0, length: float = 14.0
) -> np.ndarray:
    """Return notes at a peak tempo that fades evenly from one moment to another; clock 2 %, hand 4 ms."""
    rng = np.random.default_rng(seed)
    at = [0.0]
    while at[-1] < length:
        bpm = peak + (keep - peak) * np.clip((at[-1] - start) / (end - start), 0, 1)
        at.append(at[-1] + 60 / bpm / 4 * (1 + rng.normal(0, 0.02)))
    return np.sort(np.array(at) + rng.normal(0, 0.004, len(at)))


class BurstTests(TestCase):
    def test_peak_fade_and_what_is_kept_lie_in_their_ranges(self) -> None:
        hits: dict[str, list[bool]] = {name: [] for name in ("peak", "kept", "from", "rate")}
        for seed in range(10):
            found = burst(struck(seed), slots=4)
            assert isinstance(found, Burst)
            self.assertTrue(found.fades)
            assert found.from_ci95_s
            assert found.bpm_a_second_ci95
            ranges = (found.peak_ci95_bpm, found.kept_ci95_bpm, found.from_ci95_s, found.bpm_a_second_ci95)
            for name, (low, high), truth in zip(hits, ranges, (160, 140, 3.0, 4.0), strict=True):
                hits[name].append(low <= truth <= high)
        for name, some in hits.items():
            self.assertGreaterEqual(np.mean(some), 0.85, name)

    def test_who_does_not_tire_is_not_told_so(self) -> None:
        found = [burst(struck(seed, keep=160), slots=4) for seed in range(10)]
        self.assertLessEqual(sum(isinstance(one, Burst) and one.fades for one in found), 1)
        self.assertTrue(all(isinstance(one, Burst) and one.kept_bpm == one.peak_bpm for one in found))
        peaks = [one.peak_bpm for one in found if isinstance(one, Burst)]
        np.testing.assert_allclose(peaks, 160, rtol=0.02)

    def test_a_fade_all_the_way_has_the_slope_of_a_straight_line(self) -> None:
        onsets = struck(3, start=0.0, end=12.0, length=12.0, keep=120)
        interval_s = np.diff(onsets)
        slope, _ = np.polyfit((onsets[:-1] + onsets[1:]) / 2, 15 / interval_s, 1)
        found = burst(onsets, slots=4)
        assert isinstance(found, Burst)
        assert found.bpm_a_second_ci95
        low, high = found.bpm_a_second_ci95
        self.assertTrue(low <= -slope <= high, (low, -slope, high))

    def test_a_line_through_intervals_is_least_squares(self) -> None:
        """Beside numpy, where neighbours are not correlated."""
        rng = np.random.default_rng(8)
        design, y = np.column_stack([np.ones(40), np.linspace(0, 1, 40)]), rng.normal(0.1, 0.01, 40)
        mean, (left,), *_ = np.linalg.lstsq(design, y, rcond=None)
        found = _Line(design, y, 0.0)
        np.testing.assert_allclose(found.mean, mean)
        np.testing.assert_allclose(found.rest, y - design @ mean)
        np.testing.assert_allclose(found.chol @ found.chol.T, np.linalg.inv(design.T @ design) * left / 38)

    def test_what_the_hand_has_of_intervals_is_how_neighbours_undo_each_other(self) -> None:
        """Minus their correlation at lag one, beside ``numpy``; of a hand alone a half, of a clock alone nothing."""
        rng = np.random.default_rng(3)
        hand, clock = np.diff(rng.normal(0, 5, 4001)), rng.normal(0, 5, 4000)
        mixed = hand + clock
        by_numpy = -float(np.corrcoef(mixed[1:], mixed[:-1])[0, 1])
        self.assertAlmostEqual(_hand_share(mixed), by_numpy, delta=0.01)
        self.assertAlmostEqual(by_numpy, 1 / 3, delta=0.04)
        self.assertAlmostEqual(_hand_share(hand), min(0.5, MOST_HAND), delta=0.03)
        self.assertEqual(_hand_share(np.cumsum(clock)), 0.0)

    def test_the_unit_is_the_beat(self) -> None:
        sixteenths, triplets = (burst(struck(2), slots=slots) for slots in (4, 3))
        assert isinstance(sixteenths, Burst)
        assert isinstance(triplets, Burst)
        self.assertAlmostEqual(triplets.peak_bpm / sixteenths.peak_bpm, 4 / 3, delta=0.01)

    def test_a_pause_ends_it_and_too_few_are_said(self) -> None:
        onsets = struck(1)
        whole, paused = burst(onsets, slots=4), burst([*onsets, onsets[-1] + 3, onsets[-1] + 3.1], slots=4)
        self.assertEqual(getattr(whole, "notes", 0), getattr(paused, "notes", 1))
        self.assertEqual(getattr(paused, "length_s", 0.0), round(float(onsets[-1] - onsets[0]), 3))
        self.assertEqual(getattr(burst(onsets[:10], slots=4), "code", ""), "few-struck")
        self.assertEqual(getattr(burst([], slots=4), "code", ""), "few-struck")


class WorkingTests(TestCase):
    def test_four_fifths_of_the_lower(self) -> None:
        probe = Ceiling(140.0, 138.0, (131.0, 146.0), 20)
        fast = Burst(100, 9.0, 160.0, (158.0, 162.0), True, 125.0, (123.0, 127.0))
        self.assertEqual(working_at(probe, None), Working(110, 104, 116))
        self.assertEqual(working_at(probe, fast), Working(100, 98, 101))
        self.assertEqual(working_at(None, fast, share=0.5), Working(62, 61, 63))
        self.assertIsNone(working_at(None, None))
        self.assertEqual(working_at(Ceiling(200.0, None, (190.0, 300.0), 31, "all-kept")), Working(152, 152, 152))
