"""Sound that is read anywhere: beside what it holds, thinned, watched, channels that take each other away."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

import numpy as np
import soundfile
from scipy import signal

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing.sound import CANCELS, SIDE_TAPS, Samples, SoundFile, Thinned, Watched, is_plain

RATE_HZ = 8_000
NOISE = np.random.default_rng(1).uniform(-0.5, 0.5, 4_000)


class SamplesTests(TestCase):
    def test_outside_of_what_there_is_it_is_silent(self) -> None:
        sound = Samples(np.arange(1.0, 6.0), RATE_HZ)
        for start, stop, expected in (
            (0, 5, [1, 2, 3, 4, 5]),
            (-2, 2, [0, 0, 1, 2]),
            (3, 7, [4, 5, 0, 0]),
            (-1, 6, [0, 1, 2, 3, 4, 5, 0]),
            (-4, -1, [0, 0, 0]),
            (5, 7, [0, 0]),
            (2, 2, []),
        ):
            self.assertEqual(sound.read(start, stop).tolist(), expected, (start, stop))
        self.assertEqual(sound.frames, 5)


class ThinnedTests(TestCase):
    def test_every_so_many_samples_of_what_scipy_filters(self) -> None:
        """Beside ``scipy.signal.firwin`` and a convolution by numpy, whichever samples are read."""
        for factor in (2, 3, 5):
            seen = Thinned(Samples(NOISE, RATE_HZ), factor)
            taps = signal.firwin(2 * SIDE_TAPS * factor + 1, 0.9 / factor)
            expected = np.convolve(NOISE, taps, mode="same")[::factor]
            self.assertEqual((seen.rate_hz, seen.frames), (RATE_HZ // factor, NOISE.size // factor))
            for start, stop in ((0, seen.frames), (0, 1), (17, 40), (seen.frames - 3, seen.frames)):
                found = seen.read(start, stop)
                self.assertEqual(found.size, stop - start)
                np.testing.assert_allclose(found, expected[start:stop], atol=1e-6)

    def test_what_the_lower_rate_cannot_hold_is_gone_and_what_it_can_stays(self) -> None:
        time_s = np.arange(RATE_HZ) / RATE_HZ
        for hz, low, high in ((200.0, 0.98, 1.02), (1_900.0, 0.0, 0.05)):
            seen = Thinned(Samples(np.cos(2 * np.pi * hz * time_s), RATE_HZ), 4).read(100, 1_900)
            self.assertTrue(low <= float(np.max(np.abs(seen))) <= high, hz)


class WatchedTests(TestCase):
    def test_what_was_read_is_counted_also_again(self) -> None:
        told: list[int] = []
        watched = Watched(Samples(NOISE, RATE_HZ), told.append)
        np.testing.assert_array_equal(watched.read(10, 30), NOISE[10:30])
        watched.read(10, 20)
        self.assertEqual(told, [20, 30])
        self.assertEqual((watched.rate_hz, watched.frames), (RATE_HZ, NOISE.size))


class FileTests(TestCase):
    def written(self, samples: FloatArray, **form: str) -> Path:
        """Return a file of some samples, shape (frames, channels)."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "take"
        soundfile.write(path, samples, RATE_HZ, **({"format": "WAV", "subtype": "FLOAT"} | form))
        return path

    def test_channels_are_one_and_what_cancels_is_heard_by_its_loudest(self) -> None:
        """A mix with less than a tenth of the loudest one's power is none: two that differ by a share s have s²/4."""
        for share, alone in ((0.5, True), (0.7, False), (2.0, False)):
            both = np.stack([NOISE, NOISE * (share - 1)], axis=1)  # the mix is NOISE · share / 2
            self.assertEqual((share / 2) ** 2 < CANCELS, alone)
            with SoundFile(self.written(both)) as file:
                self.assertEqual(bool(file.notes), alone, share)
                expected = NOISE if alone else NOISE * share / 2
                np.testing.assert_allclose(file.read(0, NOISE.size), expected, atol=1e-6)
        third = np.stack([0.1 * NOISE, 0.2 * NOISE, -0.3 * NOISE], axis=1)
        with SoundFile(self.written(third)) as file:
            np.testing.assert_allclose(file.read(5, 50), -0.3 * NOISE[5:50], atol=1e-6)

    def test_outside_of_the_file_it_is_silent(self) -> None:
        with SoundFile(self.written(NOISE)) as file:
            self.assertEqual(file.read(-3, 2)[:3].tolist(), [0, 0, 0])
            self.assertEqual(file.read(NOISE.size - 1, NOISE.size + 2)[1:].tolist(), [0, 0])
            self.assertEqual(file.read(-9, -4).tolist(), [0] * 5)

    def test_what_can_not_be_read_on_says_from_where(self) -> None:
        with SoundFile(self.written(NOISE)) as file, patch.object(file, "_file") as broken:
            broken.read.side_effect = RuntimeError("bad block")
            with self.assertRaisesRegex(GiustoError, "the recording is damaged, or was cut off, at 0.4 s"):
                file.read(round(0.4 * RATE_HZ), NOISE.size)

    def test_what_is_no_number_is_silence(self) -> None:
        odd = NOISE.copy()
        odd[3:6] = [np.nan, np.inf, -np.inf]
        with SoundFile(self.written(odd)) as file:
            self.assertEqual(file.read(3, 6).tolist(), [0, 0, 0])

    def test_what_is_plain(self) -> None:
        for form, plain in (
            ({"format": "WAV", "subtype": "PCM_16"}, True),
            ({"format": "FLAC", "subtype": "PCM_16"}, True),
            ({"format": "WAV", "subtype": "ULAW"}, True),
            ({"format": "WAV", "subtype": "IMA_ADPCM"}, False),
            ({"format": "OGG", "subtype": "VORBIS"}, False),
        ):
            self.assertEqual(is_plain(self.written(NOISE, **form)), plain, form)
        path = self.written(NOISE)
        path.write_bytes(b"no sound")
        self.assertFalse(is_plain(path))
