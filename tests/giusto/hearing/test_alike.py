"""Onsets set against each other: soft attacks that ring into each other come out evenly; sharp ones stay."""

from __future__ import annotations

from unittest import TestCase
from unittest.mock import patch

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing import alike
from giusto.hearing import onsets as module
from giusto.hearing.alike import FEWEST, HOP_S, LEAST_ALIKE, MOST_S, _moved, aligned
from giusto.hearing.onsets import onsets
from giusto.hearing.sound import Samples
from giusto.simulation.hearing_benchmark import Sounding, taken
from giusto.simulation.instrument import RATE_HZ, strike

STROKES = 40


def soft(pitch_hz: float) -> FloatArray:
    """Return a note that swells within 12 ms and rings for a second, as of felt on a long string."""
    time_s = np.arange(RATE_HZ) / RATE_HZ
    swell = 1 - np.exp(-time_s / 0.012)
    tone = sum(np.sin(2 * np.pi * k * pitch_hz * time_s + k) / k**1.5 for k in range(1, 9))
    sound: FloatArray = swell * np.exp(-time_s / 0.35) * tone
    return sound / np.max(np.abs(sound))


def spread_ms(one: Sounding, found_s: FloatArray) -> float:
    """Return the standard deviation of onsets about what was played, of the pairs within 25 ms."""
    off_ms = np.array([1000 * (found_s[np.argmin(np.abs(found_s - at))] - at) for at in one.truth_s])
    return float(np.std(off_ms[np.abs(off_ms) < 25]))


def both_ms(strokes: list[FloatArray], *, apart_s: float = 0.45) -> tuple[float, float]:
    """Return the spread with the attack's own bound alone, and with the onsets set against each other."""
    one = taken("a", strokes, noise_db=-60, seed=3, apart_s=apart_s, loudest_only=apart_s < 0.1)
    sound = Samples(one.samples, RATE_HZ)
    with patch.object(module, "aligned", lambda _, found_s: found_s):
        alone = onsets(sound).onset_s
    return spread_ms(one, alone), spread_ms(one, onsets(sound).onset_s)


class AlikeTests(TestCase):
    def test_soft_attacks_of_a_tune_come_out_evenly(self) -> None:
        """Notes of several pitches, each into the ringing of the last: little more than half the spread, or less."""
        tune = [soft(220 * 2 ** (step / 12)) for step in np.random.default_rng(2).integers(0, 13, STROKES)]
        alone_ms, together_ms = both_ms(tune)
        self.assertLess(together_ms, 0.6 * alone_ms)

    def test_what_is_struck_stays(self) -> None:
        for name in ("skin", "wood", "metal"):
            strokes = [strike(name, np.random.default_rng([1, k]), rate_hz=RATE_HZ) for k in range(STROKES)]
            alone_ms, together_ms = both_ms(strokes)
            self.assertLess(together_ms, alone_ms + 0.1, name)

    def test_double_strokes_do_not_pull_each_other(self) -> None:
        """Wood struck twice, 60 ms apart, again and again."""
        strokes = [strike("wood", np.random.default_rng([1, k]), rate_hz=RATE_HZ) for k in range(STROKES)]
        alone_ms, together_ms = both_ms(strokes, apart_s=0.06)
        self.assertLess(together_ms, alone_ms + 0.1)

    def test_a_few_notes_show_no_common_rise(self) -> None:
        times_s = np.arange(FEWEST - 1) * 0.5
        self.assertIs(aligned(Samples(np.zeros(5 * RATE_HZ), RATE_HZ), times_s), times_s)

    def test_silence_moves_nothing(self) -> None:
        times_s = np.arange(FEWEST) * 0.5
        np.testing.assert_allclose(aligned(Samples(np.zeros(5 * RATE_HZ), RATE_HZ), times_s), times_s)


PLACE = np.arange(70)


def bump(at: float, *, width: float = 6.0) -> FloatArray:
    """Return a rise of which only its place matters."""
    found: FloatArray = np.exp(-0.5 * ((PLACE - at) / width) ** 2)
    return found / np.linalg.norm(found)


class MovedTests(TestCase):
    """Rises that are written down: no sound is read."""

    def test_each_lies_where_it_was_drawn_between_steps_too(self) -> None:
        off = [0.0, 2.0, -3.0, 1.4, -0.6]
        moved, alike_, gain = _moved(np.stack([bump(30 + by) for by in off]), bump(30), 10)
        np.testing.assert_allclose(moved, off, atol=0.02)
        np.testing.assert_allclose(alike_, 1.0, atol=0.004)  # at the nearest step
        self.assertEqual(gain[0], 0.0)
        self.assertAlmostEqual(gain[1], 1 - bump(30) @ bump(32), places=6)

    def test_no_farther_than_is_looked(self) -> None:
        moved, _, _ = _moved(np.stack([bump(45), bump(15)]), bump(30), 10)
        self.assertTrue(np.all(np.abs(moved) <= 10))
        self.assertGreater(moved[0], 8)
        self.assertLess(moved[1], -8)

    def aligned_ms(self, rises: list[FloatArray]) -> FloatArray:
        """Return by how much onsets with such rises are moved, in ms."""
        onset_s = np.arange(len(rises)) * 0.5
        with patch.object(alike, "_rises", lambda *_: iter([np.stack(rises[:5]), np.stack(rises[5:])])):
            return 1000 * (aligned(Samples(np.zeros(1), RATE_HZ), onset_s) - onset_s)

    def test_an_onset_is_moved_to_where_all_rise_and_the_median_stays(self) -> None:
        off = np.array([0, 0, 0, 0, 0, 2.0, -2.0, 4.0, -1.0])
        found_ms = self.aligned_ms([bump(30 + by) for by in off])
        np.testing.assert_allclose(found_ms, 1000 * HOP_S * off, atol=0.3)
        self.assertEqual(np.median(found_ms), 0.0)

    def test_loud_or_soft_is_no_matter(self) -> None:
        off = np.array([0, 0, 0, 0, 0, 2.0, -2.0, 4.0, -1.0])
        loud = [3.0 ** (k % 3) * bump(30 + by) for k, by in enumerate(off)]
        np.testing.assert_allclose(self.aligned_ms(loud), self.aligned_ms([bump(30 + by) for by in off]), atol=1e-9)

    def test_what_rises_otherwise_stays_where_it_is(self) -> None:
        """A rise of one step has little of the common one in it, wherever it is laid."""
        spark = np.where(PLACE == 34, 1.0, 0.0)
        self.assertLess(max(bump(at) @ spark for at in PLACE), LEAST_ALIKE)
        self.assertEqual(self.aligned_ms([*[bump(30)] * 9, spark])[-1], 0.0)

    def test_what_lies_as_well_where_it_is_stays(self) -> None:
        """Moved by less than a step of a broad rise, that gains less than three in a thousand."""
        found_ms = self.aligned_ms([*[bump(30)] * 9, bump(30.6)])
        self.assertEqual(found_ms[-1], 0.0)
        self.assertGreater(self.aligned_ms([*[bump(30)] * 9, bump(31.4)])[-1], 2.0)

    def test_none_is_moved_by_more_than_is_allowed(self) -> None:
        found_ms = self.aligned_ms([*[bump(30)] * 9, bump(44)])
        self.assertLessEqual(float(np.max(np.abs(found_ms))), 1000 * MOST_S)
