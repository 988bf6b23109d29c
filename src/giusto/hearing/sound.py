"""Sound as one channel that can be read anywhere: a file, or samples in memory."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from types import TracebackType
from typing import Protocol

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.signal import firwin, upfirdn

from giusto.arrays import FloatArray
from giusto.errors import GiustoError

LOWEST_HZ, HIGHEST_HZ = 8_000, 192_000  # ours: rates that an instrument can be heard at, and that are in use
SIDE_TAPS = 4  # of the low-pass, to each side, in samples of the lower rate
MOST_S, MOST_CHANNELS = 4 * 3600, 32  # ours
FORMATS = ("WAV", "WAVEX", "RF64", "W64", "FLAC", "AIFF")


class Sound(Protocol):
    """One channel of sound."""

    @property
    def rate_hz(self) -> int:
        """Samples a second."""

    @property
    def frames(self) -> int:
        """How many samples there are."""

    def read(self, start: int, stop: int) -> FloatArray:
        """Return samples, −1 to 1; silence outside of what there is."""


@dataclass(frozen=True, slots=True)
class Samples:
    """Sound in memory.

    Attributes
    ----------
    samples : array of float, shape (frames,)
    rate_hz : int
    """

    samples: NDArray[np.floating]
    rate_hz: int

    @property
    def frames(self) -> int:
        """How many samples there are."""
        return int(self.samples.size)

    def read(self, start: int, stop: int) -> FloatArray:
        """Return samples; silence outside of what there is."""
        return _padded(self.samples[max(start, 0) : max(stop, 0)], start, stop)


class SoundFile:
    """A WAV or FLAC file of any bit depth, its channels as one; closed by ``with``.

    Raises
    ------
    GiustoError
        ``sound``, where it can't be read, is no sound of ours, or too long; with what it is and what is allowed.
    """

    def __init__(self, path: Path) -> None:
        try:
            self._file = soundfile.SoundFile(path)
        except (soundfile.LibsndfileError, RuntimeError, TypeError) as error:
            text = str(error).rpartition(": ")[2].rstrip(".")
            raise GiustoError(f"the recording can't be read, allowed are WAV and FLAC: {text}", code="sound") from None
        self.rate_hz, self.frames = self._file.samplerate, self._file.frames
        if problem := self._problem():
            self._file.close()
            raise GiustoError(problem, code="sound")

    def _problem(self) -> str:
        if self._file.format not in FORMATS:
            return f"the recording is {self._file.format}, allowed are WAV and FLAC"
        if not LOWEST_HZ <= self.rate_hz <= HIGHEST_HZ:
            return f"the recording has {self.rate_hz} samples a second, allowed are {LOWEST_HZ:,} to {HIGHEST_HZ:,}"
        if self._file.channels > MOST_CHANNELS:
            return f"the recording has {self._file.channels} channels, allowed are {MOST_CHANNELS}"
        if self.frames > MOST_S * self.rate_hz:
            return f"the recording lasts {self.frames / self.rate_hz:.0f} s, allowed are {MOST_S:,}"
        return "" if self.frames else "the recording is empty"

    def __enter__(self) -> SoundFile:
        """Return the file itself."""
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        """Close the file."""
        self.close()

    def close(self) -> None:
        """Close the file."""
        self._file.close()

    def read(self, start: int, stop: int) -> FloatArray:
        """Return samples; silence outside of what there is, and where the file ends before it says.

        Raises
        ------
        GiustoError
            ``sound``, where it can't be read on.
        """
        first = min(max(start, 0), self.frames)
        count = min(max(stop, 0), self.frames) - first
        try:
            self._file.seek(first)
            found = self._file.read(max(count, 0), dtype="float32", always_2d=True)
        except (soundfile.LibsndfileError, RuntimeError) as error:
            problem = f"the recording is damaged, or was cut off, at {first / self.rate_hz:.1f} s"
            raise GiustoError(problem, code="sound") from error
        mono = found.mean(axis=1) if found.shape[1] > 1 else found[:, 0]
        return _padded(np.nan_to_num(mono, nan=0.0, posinf=0.0, neginf=0.0), start, stop)


@dataclass(frozen=True, slots=True)
class Thinned:
    """A sound at a lower rate, its highs taken out: every so many samples of it.

    Attributes
    ----------
    sound : Sound
    factor : int
        Divides the sound's rate.
    """

    sound: Sound
    factor: int

    @property
    def rate_hz(self) -> int:
        """Samples a second."""
        return self.sound.rate_hz // self.factor

    @property
    def frames(self) -> int:
        """How many samples there are."""
        return self.sound.frames // self.factor

    def read(self, start: int, stop: int) -> FloatArray:
        """Return samples; the same whichever others are read with them."""
        half = SIDE_TAPS * self.factor
        samples = self.sound.read(start * self.factor - half, (stop - 1) * self.factor + half + 1)
        whole = upfirdn(_low_pass(self.factor), samples.astype(np.float32), down=self.factor)
        found: FloatArray = whole[2 * SIDE_TAPS : 2 * SIDE_TAPS + stop - start].astype(np.float64)
        return found


@cache
def _low_pass(factor: int) -> NDArray[np.float32]:
    """Return a filter that leaves what the lower rate can hold."""
    taps: NDArray[np.float32] = firwin(2 * SIDE_TAPS * factor + 1, 0.9 / factor).astype(np.float32)
    return taps


@dataclass(slots=True)
class Watched:
    """A sound that tells how much of it was read, so that long work can be followed and broken off.

    Attributes
    ----------
    sound : Sound
    told : callable
        Called with the samples read so far, counting again those that are read again; what it raises ends the work.
    """

    sound: Sound
    told: Callable[[int], None]
    rate_hz: int = field(init=False)
    frames: int = field(init=False)
    _read: int = field(init=False, default=0)

    def __post_init__(self) -> None:
        """Be as long as the sound itself."""
        self.rate_hz, self.frames = self.sound.rate_hz, self.sound.frames

    def read(self, start: int, stop: int) -> FloatArray:
        """Return samples, as the sound itself does, and tell."""
        self._read += stop - start
        self.told(self._read)
        return self.sound.read(start, stop)


def _padded(found: NDArray[np.floating], start: int, stop: int) -> FloatArray:
    samples = np.zeros(stop - start)
    at = max(-start, 0)
    samples[at : at + found.size] = found[: samples.size - at]
    return samples
