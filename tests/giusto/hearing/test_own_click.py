"""A click of one's own: cut at its onset, as loud as ours, and found again in a recording."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
import soundfile

from giusto.arrays import FloatArray
from giusto.click.sound import blocks, click_frames
from giusto.click.voice import OWN_RATE_HZ, click_at, click_samples, pitch_of
from giusto.errors import GiustoError
from giusto.hearing.find_click import find_click
from giusto.hearing.own_click import LONGEST_S, PEAK, cut, own_sound
from giusto.hearing.sound import SoundFile
from tests.drills import planned


def bell(rate_hz: int = 44_100, *, before_s: float = 0.4, decay_s: float = 0.05) -> FloatArray:
    """Return a bell of our own making, some while after the beginning of its recording, over faint noise."""
    time_s = np.arange(round(0.6 * rate_hz)) / rate_hz
    ring = sum(np.cos(2 * np.pi * hz * time_s) * np.exp(-time_s / decay_s) / n for n, hz in enumerate((1870, 3110), 1))
    noise = np.random.default_rng(3).normal(0, 1e-4, round((before_s + 0.8) * rate_hz))
    at = round(before_s * rate_hz)
    noise[at : at + time_s.size] += 0.2 * ring
    return noise


class CutTests(TestCase):
    def test_it_begins_with_its_onset_and_is_as_loud_as_ours(self) -> None:
        for rate_hz in (22_050, 44_100, 48_000, 96_000):
            own = cut(bell(rate_hz), rate_hz)
            loud = np.flatnonzero(np.abs(own.samples) > 0.3 * PEAK)
            self.assertLess(loud[0] / OWN_RATE_HZ, 0.0015)
            self.assertAlmostEqual(float(np.max(np.abs(own.samples))), PEAK, places=6)
            self.assertLessEqual(own.samples.size, LONGEST_S * OWN_RATE_HZ + 1)
            self.assertAlmostEqual(own.pitch_hz, 1870, delta=40)

    def test_a_long_sound_ends_and_fades(self) -> None:
        own = cut(bell(decay_s=3.0), 44_100)
        self.assertAlmostEqual(own.samples.size / OWN_RATE_HZ, LONGEST_S, delta=0.001)
        self.assertAlmostEqual(float(own.samples[-1]), 0.0, places=6)

    def test_nothing_loud_and_nothing_long_are_refused(self) -> None:
        spark = np.zeros(4000)
        spark[1000:1003] = 0.5
        for samples, said in ((np.zeros(1000), "loud enough"), (np.zeros(0), "loud enough"), (spark, "less than 4 ms")):
            with self.assertRaisesRegex(GiustoError, said):
                cut(samples, 44_100)

    def test_a_file_of_any_coder_and_a_long_one(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "bell.ogg"
            soundfile.write(path, bell(), 44_100, format="OGG", subtype="VORBIS")
            self.assertAlmostEqual(own_sound(path).pitch_hz, 1870, delta=60)
            soundfile.write(Path(folder) / "long.wav", np.full(11 * 8000, 0.1), 8000)
            with self.assertRaisesRegex(GiustoError, "lasts 11 s, allowed are 10 s"):
                own_sound(Path(folder) / "long.wav")


class SoundingTests(TestCase):
    def test_it_sounds_at_its_places_and_levels(self) -> None:
        own, plan = cut(bell(), 44_100), planned(cycles=2)
        whole = np.concatenate([*blocks(plan, voice=own, rate_hz=48_000)])
        frame = int(click_frames(plan, rate_hz=48_000)[3])
        np.testing.assert_allclose(whole[frame : frame + 200], 0.8 * own.samples[:200], rtol=0, atol=1e-6)
        soft = click_samples(own, "sub", rate_hz=44_100)
        self.assertLess(float(np.max(np.abs(soft))), 0.36 * PEAK)
        self.assertEqual(pitch_of(own), own.pitch_hz)
        self.assertAlmostEqual(click_at(own, 16_000).size / 16_000, own.samples.size / 48_000, delta=0.001)

    def test_it_is_found_in_a_recording_where_it_bleeds(self) -> None:
        """30 dB below the strokes beside it, to a tenth of a millisecond, as ours are."""
        own, plan, rate_hz, zero_s = cut(bell(), 44_100), planned(cycles=8), 44_100, 1.2345
        click = np.concatenate([*blocks(plan, voice=own, rate_hz=rate_hz)])
        rng = np.random.default_rng(5)
        sound = rng.normal(0, 3e-4, click.size + 3 * rate_hz)
        start = round(zero_s * rate_hz)
        sound[start : start + click.size] += 0.03 * click
        for at_s in np.arange(zero_s + 3, zero_s + 20, 0.3125) + rng.normal(0, 0.01, 55)[:55]:
            at, stroke_s = round(at_s * rate_hz), np.arange(2000) / rate_hz
            sound[at : at + 2000] += 0.5 * np.exp(-stroke_s / 0.01) * np.sin(2 * np.pi * 180 * stroke_s)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "take.wav"
            soundfile.write(path, sound, rate_hz)
            with SoundFile(path) as file:
                line = find_click(file, plan, voices=(own,))
                assert line is not None
                self.assertAlmostEqual(line.zero_s, start / rate_hz, delta=1e-4)
