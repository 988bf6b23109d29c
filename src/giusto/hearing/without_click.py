"""A recording with the click taken out: what sounds alike at every click is taken away from each."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from giusto.arrays import FloatArray
from giusto.click.voice import OWN_RATE_HZ, AnyVoice, OwnSound
from giusto.hearing.recorder_clock import ClockLine
from giusto.hearing.sound import Sound
from giusto.schedule import Schedule

BEFORE_S, AFTER_S = 0.004, 0.160  # of a click's sound in a room, whose own is shorter
ECHO_S, FADE_S = 0.100, 0.010  # after a longer click, and how its end is faded


def lasting(voice: AnyVoice, plan: Schedule) -> float:
    """Return how long the click of a voice is heard in a room, in seconds; no longer than until the next."""
    if not isinstance(voice, OwnSound):
        return AFTER_S
    apart_s = float(np.min(np.diff(plan.seconds(plan.clicks.tick)), initial=np.inf)) - BEFORE_S
    return min(max(voice.samples.size / OWN_RATE_HZ + ECHO_S, AFTER_S), max(apart_s, AFTER_S))


@dataclass
class WithoutClick:
    """A recording with the click taken out: what sounds alike at every click is taken away from each.

    Attributes
    ----------
    sound : Sound
    line : ClockLine
    plan : Schedule
    after_s : float
        How long a click is heard.
    """

    sound: Sound
    line: ClockLine
    plan: Schedule
    after_s: float = AFTER_S
    _frames: FloatArray = field(init=False)
    _clicks: dict[str, FloatArray] = field(init=False)

    def __post_init__(self) -> None:
        """Learn how each kind of click sounds here."""
        self.rate_hz, self.frames = self.sound.rate_hz, self.sound.frames
        self._frames = self.line.recorded_s(self.plan.seconds(self.plan.clicks.tick)) * self.rate_hz
        self._kinds = np.array(["click" if kind == "count" else str(kind) for kind in self.plan.kinds])
        counted = self.plan.kinds == "count"
        self._clicks = {}
        for kind in np.unique(self._kinds).tolist():
            some = self._kinds == kind
            pure = some & counted  # nothing is played over a count-in
            self._clicks[kind] = self._learned(self._frames[pure if pure.any() else some])

    def read(self, start: int, stop: int) -> FloatArray:
        """Return samples without the click."""
        samples = self.sound.read(start, stop)
        before, size = self._before, self._size
        first, last = np.searchsorted(self._frames, [start - size, stop + before])
        for at, kind in zip(self._frames[first:last].tolist(), self._kinds[first:last].tolist(), strict=True):
            whole = int(np.floor(at)) - before
            begin, end = max(whole, start), min(whole + size, stop)
            if begin < end:
                click = _shifted(self._clicks[kind], at - np.floor(at))
                window = self.sound.read(whole, whole + size)
                # How loud it is here: the player's body, or a hand, may stand between loudspeaker and microphone.
                scale = float(np.clip(window @ click / max(float(click @ click), 1e-12), 0.0, 2.0))
                samples[begin - start : end - start] -= scale * click[begin - whole : end - whole]
        return samples

    @property
    def _before(self) -> int:
        return round(BEFORE_S * self.rate_hz)

    @property
    def _size(self) -> int:
        return round((BEFORE_S + self.after_s) * self.rate_hz)

    def _learned(self, frames: FloatArray) -> FloatArray:
        """Return what is alike around some clicks: the mean of few, the median of many, which notes do not move."""
        chosen = frames[np.linspace(0, frames.size - 1, min(frames.size, 80)).astype(np.int64)]
        windows = []
        for at in chosen.tolist():
            whole = int(np.floor(at)) - self._before
            windows.append(_shifted(self.sound.read(whole, whole + self._size), np.floor(at) - at))
        found: FloatArray = np.mean(windows, axis=0) if len(windows) < 6 else np.median(windows, axis=0)
        # Cut off where it still sounds, what is left of it would begin like a note.
        fades = round(FADE_S * self.rate_hz)
        found[-fades:] *= np.linspace(1, 0, fades)
        return found


def _shifted(samples: FloatArray, by: float) -> FloatArray:
    """Return samples moved by a part of a sample, to the right where positive."""
    if by == 0:
        return samples
    spectrum = np.fft.rfft(samples, 2 * samples.size)
    turn = np.exp(-2j * np.pi * np.fft.rfftfreq(2 * samples.size) * by)
    found: FloatArray = np.fft.irfft(spectrum * turn, 2 * samples.size)[: samples.size]
    return found
