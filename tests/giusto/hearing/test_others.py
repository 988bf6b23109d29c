"""Another's groove behind a take is left out; one's own soft notes, of whatever kind, are not."""

import tracemalloc
from unittest import TestCase

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing.attack import Attacks
from giusto.hearing.onsets import onsets
from giusto.hearing.others import remarks_of
from giusto.hearing.sound import Samples
from giusto.simulation.hearing_benchmark import Sounding, beside_groove, heard, taken
from giusto.simulation.instrument import RATE_HZ, strike


def take_of(sound: str, *, seed: int = 1) -> Sounding:
    """Return sixty strokes from −18 to −3 dB, half a second apart or so."""
    return taken(
        sound, [strike(sound, np.random.default_rng(k), rate_hz=RATE_HZ) for k in range(60)], noise_db=-60, seed=seed
    )


def rhythm(*struck: tuple[str, int, int, float], steps: int, step_s: float) -> FloatArray:
    """Return a rhythm, even to 8 ms: a sound, on which steps of how many it falls, and its level in dB."""
    rng = np.random.default_rng(4)
    found = 1e-4 * rng.standard_normal(round((steps + 4) * step_s * RATE_HZ))
    for step in range(steps):
        at = round((0.5 + step * step_s + 0.008 * rng.standard_normal()) * RATE_HZ)
        for sound, first, every, level_db in struck:
            if step % every == first:
                stroke = 10 ** (level_db / 20) * strike(sound, rng, rate_hz=RATE_HZ)[: found.size - at]
                found[at : at + stroke.size] += stroke
    return found


class OthersTests(TestCase):
    def test_a_groove_behind_a_take_is_left_out(self) -> None:
        """The bar: F .9 beside a groove 20 dB below full scale, among strokes from 18 dB below; .6 without this."""
        for sound in ("skin", "wood", "string", "metal"):
            for seed in (1, 2):
                one = beside_groove(take_of(sound, seed=seed), seed=seed)
                found = onsets(Samples(one.samples, RATE_HZ))
                with self.subTest(sound, seed=seed):
                    self.assertGreaterEqual(heard(one, found.onset_s).f, 0.9)
                    self.assertGreater(found.others, 30)

    def test_soft_notes_under_anothers_strokes_are_ones_own(self) -> None:
        """Notes that swell for 20 ms, as of strings softly plucked: each groove's stroke hid those near it (F .86)."""
        time_s = np.arange(round(0.9 * RATE_HZ)) / RATE_HZ
        for seed in (1, 3):
            rng, notes = np.random.default_rng(seed), []
            for _ in range(60):
                pitch_hz = 196 * 2 ** (rng.integers(0, 12) / 12)
                partials = [
                    np.exp(-time_s * (1.5 + 0.5 * k))
                    / k
                    * np.sin(2 * np.pi * pitch_hz * k * time_s + rng.uniform(0, 6))
                    for k in range(1, 9)
                ]
                note = np.sum(partials, axis=0) * np.minimum(1, time_s / 0.02)
                notes.append(note / np.max(np.abs(note)))
            one = taken("soft", notes, noise_db=-60, seed=seed, stops=True)
            with self.subTest(seed=seed):
                self.assertGreaterEqual(heard(beside_groove(one, seed=seed)).f, 0.9)

    def test_alone_nothing_is_left_out(self) -> None:
        for sound in ("skin", "wood", "string", "metal"):
            with self.subTest(sound):
                self.assertEqual(onsets(Samples(take_of(sound).samples, RATE_HZ)).others, 0)

    def test_soft_notes_of_another_kind_that_stand_in_the_rhythm_are_ones_own(self) -> None:
        for struck, step_s in (
            ((("skin", 0, 4, -3.0), ("wood", 2, 4, -18.0)), 0.15),  # in the middle
            ((("skin", 0, 4, -3.0), ("wood", 1, 4, -18.0), ("metal", 3, 4, -20.0)), 0.15),
            ((("wood", 0, 3, -3.0), ("skin", 2, 3, -18.0)), 0.18),  # the last of a triplet
            ((("wood", 0, 4, -3.0), ("metal", 0, 3, -18.0)), 0.12),  # four against three
        ):
            with self.subTest(struck):
                self.assertEqual(onsets(Samples(rhythm(*struck, steps=120, step_s=step_s), RATE_HZ)).others, 0)

    def test_an_hour_of_onsets_takes_no_more_memory_than_its_sound(self) -> None:
        """Twenty thousand onsets of two kinds: found as they were drawn, without a table of each beside each."""
        rng = np.random.default_rng(5)
        is_other = rng.random(20_000) < 0.4
        kinds = np.abs(rng.normal(size=(2, 26)))
        shapes = kinds[is_other.astype(int)] + 0.1 * np.abs(rng.normal(size=(20_000, 26)))
        shapes /= np.linalg.norm(shapes, axis=1, keepdims=True)
        tracemalloc.start()
        alike = Attacks(np.zeros(20_000), shapes, np.ones(shapes.shape)).alike(~is_other)
        _, most = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        self.assertLess(most, 250e6)
        self.assertGreater(float(alike[~is_other].min()), float(alike[is_other].max()))

    def test_few_are_no_groove(self) -> None:
        one = take_of("skin")
        few = Samples(one.samples[: 4 * RATE_HZ] + beside_groove(one, seed=1).samples[: 4 * RATE_HZ], RATE_HZ)
        self.assertEqual(onsets(few).others, 0)

    def test_it_is_said(self) -> None:
        self.assertEqual(remarks_of(0), ())
        self.assertIn("31 softer sounds of another kind", remarks_of(31)[0])
