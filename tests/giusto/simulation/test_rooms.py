"""Rooms, gain controls and narrow bands that takes are recorded in: each does what its name says, and moves nothing."""

from unittest import TestCase

import numpy as np
from scipy.signal import welch

from giusto.arrays import FloatArray
from giusto.simulation.coders import through
from giusto.simulation.rooms import GAP_S, MOST_GAIN_DB, NARROW_HZ, RINGS_S, gain_controlled, in_room, narrowed

RATE_HZ = 44_100


def tone(hz: float, *, lasts_s: float = 1.0, level: float = 0.5) -> FloatArray:
    return level * np.sin(2 * np.pi * hz * np.arange(round(lasts_s * RATE_HZ)) / RATE_HZ)


class RoomTests(TestCase):
    def test_it_rings_for_half_a_second(self) -> None:
        """By Schroeder's backward integration (1965, J Acoust Soc Am 37:409; from memory): −5 to −35 dB, doubled."""
        struck = np.zeros(RATE_HZ)
        struck[0] = 1.0
        heard = in_room(struck, rate_hz=RATE_HZ)
        self.assertEqual(int(np.argmax(np.abs(heard))), 0)
        echoes = heard[round(GAP_S * RATE_HZ) : round(0.49 * RATE_HZ)]
        decay = 10 * np.log10(np.cumsum(echoes[::-1] ** 2)[::-1] / np.sum(echoes**2))
        first, last = (int(np.argmax(decay <= below)) for below in (-5, -35))
        self.assertAlmostEqual(2 * (last - first) / RATE_HZ, RINGS_S, delta=0.05)
        self.assertAlmostEqual(10 * np.log10(heard[0] ** 2 / np.sum(heard[1:] ** 2)), 3.0, delta=0.2)

    def test_another_seed_is_another_room_as_loud(self) -> None:
        struck = tone(200, level=0.3)
        one, other = (in_room(struck, rate_hz=RATE_HZ, seed=seed) for seed in (1, 2))
        self.assertFalse(np.allclose(one, other))
        self.assertAlmostEqual(float(np.max(np.abs(one))), float(np.max(np.abs(struck))))


class GainTests(TestCase):
    def test_what_is_loud_comes_down_and_what_is_soft_comes_up(self) -> None:
        loud, soft = tone(300, level=0.9), tone(300, lasts_s=3.0, level=0.003)
        found = gain_controlled(np.concatenate([loud, soft]), rate_hz=RATE_HZ)
        settled = [np.max(np.abs(found[round(at * RATE_HZ) :][: RATE_HZ // 10])) for at in (0.8, 1.05, 3.8)]
        self.assertAlmostEqual(20 * np.log10(settled[0]), -12.0, delta=1.0)
        self.assertLess(settled[1], 0.003)  # just after what is loud, what is soft is still held down
        self.assertAlmostEqual(20 * np.log10(settled[2] / 0.003), MOST_GAIN_DB, delta=0.5)


class NarrowTests(TestCase):
    def test_what_is_above_four_thousand_is_gone(self) -> None:
        both = tone(1_000) + tone(6_000)
        found = narrowed(both, rate_hz=RATE_HZ)
        self.assertEqual(found.size, NARROW_HZ)
        at_hz, power = welch(found, NARROW_HZ, nperseg=NARROW_HZ)
        self.assertEqual(at_hz[power.argmax()], 1_000)
        # 6 kHz would fold back to 2 kHz, were it not taken out before.
        self.assertLess(10 * np.log10(power[2_000] / power[1_000]), -40)

    def test_times_stay(self) -> None:
        """Where a stroke is in a file of AAC or of 8 kHz it was before, within the samples of the narrower."""
        struck = np.zeros(RATE_HZ)
        struck[RATE_HZ // 2 :][:400] = np.exp(-np.arange(400) / 80) * np.sin(
            2 * np.pi * 1_500 * np.arange(400) / RATE_HZ
        )
        few, coded = narrowed(struck, rate_hz=RATE_HZ), through(0.5 * struck, "m4a", bit_rate=64_000)
        for found, rate_hz in ((few, NARROW_HZ), (coded, RATE_HZ)):
            at_s = np.average(np.arange(found.size), weights=found**2) / rate_hz
            was_s = np.average(np.arange(struck.size), weights=struck**2) / RATE_HZ
            self.assertAlmostEqual(at_s, was_s, delta=5e-4)
