"""Onsets set against each other: soft attacks that ring into each other come out evenly; sharp ones stay."""

from __future__ import annotations

from unittest import TestCase
from unittest.mock import patch

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing import onsets as module
from giusto.hearing.alike import FEWEST, aligned
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
