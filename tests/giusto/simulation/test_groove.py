"""Somebody else's groove: as loud as was asked, in its own time, the same for the same seed."""

from unittest import TestCase

import numpy as np

from giusto.hearing.onsets import onsets
from giusto.hearing.sound import Samples
from giusto.simulation.groove import groove

RATE_HZ = 44_100


class GrooveTests(TestCase):
    def test_level_length_and_seed(self) -> None:
        one, same, other = (groove(10 * RATE_HZ, peak_db=-20, seed=seed, rate_hz=RATE_HZ) for seed in (1, 1, 2))
        self.assertEqual(one.size, 10 * RATE_HZ)
        self.assertAlmostEqual(float(np.max(np.abs(one))), 0.1)
        self.assertTrue(np.array_equal(one, same))
        self.assertFalse(np.array_equal(one, other))

    def test_eighths_at_its_tempo(self) -> None:
        """At 100 an eighth lasts .3 s: of 40 s of it some 133 strokes are heard, so far apart."""
        found = onsets(Samples(groove(40 * RATE_HZ, peak_db=-3, seed=1, rate_hz=RATE_HZ, bpm=100), RATE_HZ)).onset_s
        self.assertAlmostEqual(found.size, 133, delta=8)
        self.assertAlmostEqual(float(np.median(np.diff(found))), 0.3, delta=0.01)
