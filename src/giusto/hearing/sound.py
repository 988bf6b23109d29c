"""Sound as one channel that can be read anywhere: a file, or samples in memory."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from types import TracebackType
from typing import Protocol

import numpy as np
import scipy
import soundfile
from numpy.typing import NDArray

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing.allowed import ALLOWED, allowed_sound

SIDE_TAPS = 4  # of the low-pass, to each side, in samples of the lower rate
FORMATS = ("WAV", "WAVEX", "RF64", "W64", "FLAC", "AIFF", "CAF")
PLAIN = ("PCM_", "FLOAT", "DOUBLE", "ULAW", "ALAW")  # coders that have no blocks: read anywhere, to the sample
CANCELS = 0.1  # ours: a mix of the channels with less of the loudest one's power is no mix of them
LOOKS, LOOK_S = 16, 0.5  # ours: how often, and how long, channels are looked at


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


def is_plain(path: Path) -> bool:
    """Return whether a file is sound that can be read anywhere as it stands."""
    try:
        with soundfile.SoundFile(path) as file:
            return file.format in FORMATS and file.subtype.startswith(PLAIN)
    except (soundfile.LibsndfileError, RuntimeError, TypeError):
        return False


class SoundFile:
    """A file of uncoded sound, of any bit depth, its channels as one; closed by ``with``.

    ``notes`` says in words what is not as usual. Where channels take each other away, as a phone's second microphone
    can, the loudest of them is heard alone.

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
            raise GiustoError(f"the recording can't be read, allowed are {ALLOWED}: {text}", code="sound") from None
        self.rate_hz, self.frames = self._file.samplerate, self._file.frames
        self.notes: tuple[str, ...] = ()
        self._channel: int | None = None
        if problem := self._problem():
            self._file.close()
            raise GiustoError(problem, code="sound")
        if self._file.channels > 1:
            self._choose()

    def _choose(self) -> None:
        """Hear the loudest channel alone where the others take it away."""
        power, mixed = np.zeros(self._file.channels), 0.0
        for start in np.linspace(0, self.frames, LOOKS, endpoint=False, dtype=int):
            found = self._raw(int(start), min(int(start + LOOK_S * self.rate_hz), self.frames))
            power += np.sum(found**2, axis=0)
            mixed += float(np.sum(found.mean(axis=1) ** 2))
        if mixed < CANCELS * power.max():
            self._channel = int(power.argmax())
            self.notes = ("the channels of the recording take each other away: the loudest is heard alone",)

    def _problem(self) -> str:
        if self._file.format not in FORMATS:
            return f"the recording is {self._file.format}, allowed are {ALLOWED}"
        if problem := allowed_sound(self.rate_hz, self._file.channels, self.frames / self.rate_hz):
            return problem
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
        found = self._raw(first, min(max(stop, 0), self.frames))
        if self._channel is not None:
            mono = found[:, self._channel]
        else:
            mono = found.mean(axis=1) if found.shape[1] > 1 else found[:, 0]
        return _padded(mono, start, stop)

    def _raw(self, first: int, last: int) -> NDArray[np.float32]:
        """Return samples of all channels."""
        try:
            self._file.seek(first)
            found = self._file.read(max(last - first, 0), dtype="float32", always_2d=True)
        except (soundfile.LibsndfileError, RuntimeError) as error:
            problem = f"the recording is damaged, or was cut off, at {first / self.rate_hz:.1f} s"
            raise GiustoError(problem, code="sound") from error
        sane: NDArray[np.float32] = np.nan_to_num(found, nan=0.0, posinf=0.0, neginf=0.0)
        return sane


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
        factor, count = self.factor, stop - start
        half = SIDE_TAPS * factor
        samples = self.sound.read(start * factor - half, (stop - 1) * factor + half + factor).astype(np.float32)
        by_phase = np.ascontiguousarray(samples.reshape(-1, factor).T)
        found, part = np.zeros((2, count), dtype=np.float32)
        for index, tap in enumerate(_low_pass(factor)):  # tap by tap over all of it: twice as fast as upfirdn
            later, phase = divmod(index, factor)
            found += np.multiply(by_phase[phase, later : later + count], tap, out=part)
        return found.astype(np.float64)


@cache
def _low_pass(factor: int) -> NDArray[np.float32]:
    """Return a filter that leaves what the lower rate can hold."""
    taps: NDArray[np.float32] = scipy.signal.firwin(2 * SIDE_TAPS * factor + 1, 0.9 / factor).astype(np.float32)
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
    if found.size == stop - start:
        return found.astype(np.float64)
    samples = np.zeros(stop - start)
    at = max(-start, 0)
    samples[at : at + found.size] = found[: samples.size - at]
    return samples
