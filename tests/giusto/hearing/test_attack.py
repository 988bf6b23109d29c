"""What onsets bring, band by band: by tones whose frequency and level are written down, and shapes by hand."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing.attack import BANDS, HIGHEST_HZ, LOWEST_HZ, RANGE_DB, Attacks, attacks, nearest
from giusto.hearing.sound import Samples

RATE_HZ = 44_100
EDGES_HZ = np.geomspace(LOWEST_HZ, HIGHEST_HZ, BANDS + 1)


def tone(hz: float, *, at_s: float, seconds: float = 1.0, level: float = 0.5, until_s: float = 1.0) -> FloatArray:
    """Return a second of silence in which a tone begins, and ends."""
    time_s = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    return np.where((time_s >= at_s) & (time_s < until_s), level * np.cos(2 * np.pi * hz * (time_s - at_s)), 0.0)


def of(samples: FloatArray, *at_s: float) -> Attacks:
    """Return how onsets sound in some samples."""
    return attacks(Samples(samples, RATE_HZ), np.array(at_s))


class AttackTests(TestCase):
    def test_a_tone_brings_the_band_that_it_lies_in(self) -> None:
        for hz in (440.0, 1_000.0, 3_000.0, 9_000.0):
            band = int(np.searchsorted(EDGES_HZ, hz)) - 1
            shape = of(tone(hz, at_s=0.5), 0.5).shapes[0]
            self.assertLessEqual(abs(int(np.argmax(shape)) - band), 1, hz)
            self.assertAlmostEqual(float(np.sum(shape**2)), 1.0, places=9)
            self.assertEqual(float(shape.min()), 0.0)  # far from it there is nothing

    def test_its_loudness_is_its_peak_above_what_rang_before(self) -> None:
        found = of(tone(1_000, at_s=0.5), 0.5)
        self.assertAlmostEqual(found.loudness[0], 20 * np.log10(0.5), places=1)
        rings = tone(200, at_s=0.1, level=0.1) + tone(1_000, at_s=0.5)
        self.assertAlmostEqual(of(rings, 0.5).loudness[0], 20 * np.log10(0.5), delta=0.3)  # 0.6 less 0.1
        self.assertAlmostEqual(
            of(tone(200, at_s=0.1, level=0.1), 0.5).loudness[0], -100.0, delta=0.1
        )  # rises by nothing

    def test_the_peak_is_looked_for_until_the_next_onset(self) -> None:
        """A soft stroke, 20 ms before a loud one, is no louder for it."""
        both = tone(1_000, at_s=0.5, level=0.05) + tone(2_000, at_s=0.52, level=0.8)
        found = of(both, 0.5, 0.52)
        self.assertAlmostEqual(found.loudness[0], 20 * np.log10(0.05), delta=0.5)
        self.assertAlmostEqual(found.loudness[1], 20 * np.log10(0.8), delta=0.8)
        alone = of(both, 0.5)  # nothing is known of the second: its peak comes within 60 ms
        self.assertGreater(alone.loudness[0], -3.0)

    def test_a_band_that_rang_before_does_not_tell_and_the_one_that_came_does(self) -> None:
        rings = tone(300, at_s=0.1, level=0.4) + tone(3_000, at_s=0.5, level=0.4)
        found = of(rings, 0.5)
        low, high = (int(np.argmax(of(tone(hz, at_s=0.5), 0.5).shapes[0])) for hz in (300.0, 3_000.0))
        self.assertEqual(found.tells[0, low], 0.0)
        self.assertEqual(found.tells[0, high], 1.0)
        self.assertEqual(found.shapes[0, low], 0.0)
        self.assertGreater(found.shapes[0, high], 0.5)

    def test_many_are_as_they_are_alone(self) -> None:
        """They are gone through 64 at a time."""
        samples = np.concatenate([tone(400 + 20 * k, at_s=0.05, seconds=0.2, until_s=0.1) for k in range(70)])
        at_s = 0.05 + 0.2 * np.arange(70)
        whole = of(samples, *at_s.tolist())
        for k in (0, 63, 64, 69):
            one = of(samples, float(at_s[k]))
            np.testing.assert_allclose(whole.shapes[k], one.shapes[0])
            self.assertAlmostEqual(whole.loudness[k], one.loudness[0])

    def test_what_is_so_far_below_the_loudest_counts_for_nothing(self) -> None:
        """Two tones of one power as it is weighed, by frequency: then one that is softer than the range."""
        for softer_db, counts in ((RANGE_DB - 6, True), (RANGE_DB + 6, False)):
            level = 0.5 * 10 ** (-softer_db / 20) * np.sqrt(1_000 / 4_000)
            found = of(tone(1_000, at_s=0.5, until_s=0.56) + tone(4_000, at_s=0.5, level=level, until_s=0.56), 0.5)
            high = int(np.argmax(of(tone(4_000, at_s=0.5), 0.5).shapes[0]))
            near = found.shapes[0, high - 1 : high + 2]
            self.assertEqual(bool(near.max() > 0.05), counts, softer_db)


class LikenessTests(TestCase):
    def test_the_mean_of_the_nearest_four(self) -> None:
        self.assertAlmostEqual(float(nearest(np.array([[0.9, 0.1, 0.8, 0.7, 0.6, 0.2]]))[0]), 0.75)
        self.assertAlmostEqual(float(nearest(np.array([[0.3, 0.6]]))[0]), 0.45)  # there are but two

    def test_by_the_bands_that_tell(self) -> None:
        """A cosine, over what tells: the second band is hidden by what rang, and is not held against it."""
        shapes = np.array([[1.0, 0.0, 0.0], [0.6, 0.0, 0.8]])
        kin = np.array([[0.6, 0.8, 0.0]])
        told = Attacks(np.zeros(2), shapes, np.array([[1.0, 1.0, 1.0], [1.0, 0.0, 1.0]]))
        np.testing.assert_allclose(told.likeness(kin)[:, 0], [0.6, 0.36 / 0.6])

    def test_an_onset_is_not_its_own_kin(self) -> None:
        shapes = np.eye(6)[[0, 0, 0, 1, 2, 3]]
        found = Attacks(np.zeros(6), shapes, np.ones_like(shapes)).alike(
            np.array([True, True, True, False, True, True])
        )
        np.testing.assert_allclose(
            found, [0.5, 0.5, 0.5, 0.0, 0.0, 0.0]
        )  # the mean of four: two others, and two unlike
        self.assertEqual(found.shape, (6,))

    def test_of_thousands_three_hundred_are_looked_at_evenly(self) -> None:
        """Of a kind whose every second half is otherwise, each finds its own."""
        shapes = np.repeat(np.eye(2), 1_000, axis=0)
        found = Attacks(np.zeros(2_000), shapes, np.ones_like(shapes)).alike(np.ones(2_000, dtype=bool))
        np.testing.assert_allclose(found, 1.0)
