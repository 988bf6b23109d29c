"""The click as it is heard in a recording: found against the whole schedule, then timed click by click."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from giusto.arrays import FloatArray
from giusto.click.voice import VOICES, AnyVoice, OwnSound, click_at, pitch_of
from giusto.hearing.recorder_clock import FEWEST_CLICKS, ClockLine, line_through
from giusto.hearing.sound import Sound
from giusto.ranges import Range
from giusto.schedule import Schedule

Curve = NDArray[np.float32]
AnyFloats = FloatArray | Curve
GRID_HZ = 1000  # ours: of the first, rough alignment
ROUGH_S = 0.012  # how far clocks may drift apart before the fine alignment
NEAR_S = 0.030  # around its place a click is looked for
LEAST_ALIKE = 0.45  # correlation of a click that is there, in its own band
SURE_S = 0.001
OWN_NEAR_S = 0.1  # a click of one's own may have been found so long after its beginning
CANDIDATES, APART = 4, 60  # places of time zero that are tried, so many ms apart
BAND = (0.8, 3.6)  # of a click's pitch: where it is looked for
BLOCK_S, EDGE_S = 20.0, 0.1
ROUGH_MOST_S = 240.0  # of a long recording its first minutes tell where it begins
MORE, AS_WELL = 1.5, 0.8  # ours: a recording so many times as long may hold another take, which fits so nearly as well
TRIED, MOST_TIMED = 80, 600  # clicks that a place is tried with, and that the line is laid through


def find_click(
    sound: Sound, plan: Schedule, *, voices: Iterable[AnyVoice] = VOICES, zero_s: Range | None = None
) -> ClockLine | None:
    """Return where the clicks of a drill are heard in a recording; None where they are not.

    Parameters
    ----------
    sound : Sound
    plan : Schedule
    voices : iterable of str or OwnSound
        Sounds that the click may have.
    zero_s : (float, float), optional
        Between which times of the recording the drill's time zero lies, where that is known.

    Notes
    -----
    The recording is filtered with the sound of each voice's click; what stands out is set against the whole
    schedule, so that silences tell one cycle from the next; each click is then timed by itself, and a line through
    all of them, by least absolute error first, gives time zero and the recorder's clock.
    """
    found = place_of(sound, plan, voices=voices, zero_s=zero_s)
    return found.line if found else None


@dataclass(frozen=True, slots=True)
class Placed:
    """Where clicks lie in a recording, by which sound they were found, and how well they fit, 0 to 1."""

    line: ClockLine
    click: Click
    fit: float


def place_of(
    sound: Sound, plan: Schedule, *, voices: Iterable[AnyVoice] = VOICES, zero_s: Range | None = None
) -> Placed | None:
    """Return where the clicks of a drill lie in a recording; None where they are not heard (``find_click``)."""
    clicks_s = plan.seconds(plan.clicks.tick)
    found = placed(sound, clicks_s, voices=voices, zero_s=zero_s)
    if found is None:
        return None
    finer = line_through(*Look(sound, found.click).timed(_some(clicks_s, MOST_TIMED), found.line.zero_s))
    return Placed(finer or found.line, found.click, found.fit)


def other_take(sound: Sound, plan: Schedule, found: Placed) -> float | None:
    """Return where else in a recording the whole drill is heard, as time zero of another take; None where nowhere."""
    end_s, lasts_s = float(plan.seconds(plan.end_tick)), sound.frames / sound.rate_hz
    clicks_s, zero_s = plan.seconds(plan.clicks.tick), found.line.zero_s
    if lasts_s < MORE * end_s or clicks_s.size < FEWEST_CLICKS:
        return None
    look = found.click.look(sound)
    places = [
        best_place(look, clicks_s, between)
        for between in ((0.0, zero_s - end_s / 2), (zero_s + end_s / 2, min(lasts_s, ROUGH_MOST_S) - end_s / 2))
        if between[1] > between[0]
    ]
    alike = [one for one in places if one and one.fit >= AS_WELL * found.fit]
    return max(alike, key=lambda one: one.fit).line.zero_s if alike else None


def placed(
    sound: Sound, clicks_s: FloatArray, *, voices: Iterable[AnyVoice] = VOICES, zero_s: Range | None = None
) -> Placed | None:
    """Return where clicks at known times lie in a recording; None where they are not heard (``find_click``)."""
    if zero_s:
        within = (clicks_s + zero_s[0] > 0) & (clicks_s + zero_s[1] < sound.frames / sound.rate_hz)
        clicks_s = clicks_s[within]
    if clicks_s.size < FEWEST_CLICKS:
        return None
    found = [best_place(look, clicks_s, zero_s) for look in looks(sound, voices)]
    return max((one for one in found if one), key=lambda one: one.fit, default=None)


def _unseen() -> Curve:
    return np.zeros(0, np.float32)


@dataclass(frozen=True, slots=True)
class Look:
    """A recording, and how it sounds alike to a click: the same whatever schedule is laid over it.

    Attributes
    ----------
    sound : Sound
    click : Click
    match, alike : array of float32, shape (frames,)
        Of its first minutes, where they were gone through: how much of the click there is at each sample, and how like
        it the sound there is, at most 1.
    rough : tuple of array of float
        Of both the highest in each millisecond, 0 to 1.
    """

    sound: Sound
    click: Click
    match: Curve = field(default_factory=_unseen)
    alike: Curve = field(default_factory=_unseen)
    rough: tuple[FloatArray, ...] = ()

    def at(self, start: int, stop: int) -> tuple[AnyFloats, AnyFloats]:
        """Return match and correlation of some samples: as they were seen, else from the sound."""
        if start >= 0 and stop <= self.match.size:
            return self.match[start:stop], self.alike[start:stop]
        return self.click.at(self.sound, start, stop)

    def timed(self, clicks_s: FloatArray, start_s: float) -> tuple[FloatArray, FloatArray, float]:
        """Return which clicks are found about a place of time zero, when they are heard, and the share found."""
        rate, near = self.sound.rate_hz, round(NEAR_S * self.sound.rate_hz)
        at_s, found_s = [], []
        for click_s in clicks_s.tolist():
            middle = round((start_s + click_s) * rate)
            match, alike = self.at(middle - near, middle + near)
            peak = int(np.argmax(match))
            if alike[peak] >= LEAST_ALIKE and 0 < peak < match.size - 1:
                at_s.append(click_s)
                found_s.append((middle - near + peak + peak_between(match[peak - 1 : peak + 2])) / rate)
        return np.array(at_s), np.array(found_s), len(found_s) / clicks_s.size

    def summed(self, places_s: FloatArray, near_s: float) -> FloatArray:
        """Return how much of the click there is about some places, the mean over them, from so long before to after."""
        near = round(near_s * self.sound.rate_hz)
        found: FloatArray = np.mean([self.at(at - near, at + near)[0] for at in self._frames(places_s)], axis=0)
        return found

    def fit(self, places_s: FloatArray) -> float:
        """Return how much of a schedule is heard where a line puts it; a click that is not there counts against it."""
        near = round(SURE_S * self.sound.rate_hz)
        alike = [float(np.max(self.at(at - near, at + near + 1)[1])) for at in self._frames(places_s)]
        return float(np.mean(np.maximum(alike, 0.0)))

    def _frames(self, places_s: FloatArray) -> list[int]:
        frames: list[int] = np.round(places_s * self.sound.rate_hz).astype(np.int64).tolist()
        return frames


def looks(sound: Sound, voices: Iterable[AnyVoice] = VOICES) -> Iterator[Look]:
    """Look at a recording for each voice that its click may have, one after the other: each takes much memory."""
    for voice in voices:
        yield Click.of(voice, sound.rate_hz).look(sound)


def best_place(look: Look, clicks_s: FloatArray, zero_s: Range | None = None) -> Placed | None:
    """Return where a schedule fits best what was seen of a recording; None where it does nowhere."""
    some_s = _some(clicks_s, TRIED)
    starts = {start for curve in look.rough for start in _starts(curve, clicks_s, zero_s)}
    lines = [line_through(*look.timed(some_s, start_s)) for start_s in sorted(starts)]
    if isinstance(look.click.voice, OwnSound):
        return _of_own(look, some_s, [one for one in lines if one])
    found = [Placed(one, look.click, look.fit(one.recorded_s(some_s))) for one in lines if one]
    return max(found, key=lambda one: one.fit, default=None)


def _of_own(look: Look, clicks_s: FloatArray, lines: list[ClockLine]) -> Placed | None:
    """Return which of some lines a player's own click is on: what rings is as like itself some cycles later.

    Laid over each other its clicks are loudest where they begin, and notes, which are not so even, weigh little.
    """
    best, found = 0.0, None
    for line in lines:
        summed = look.summed(line.recorded_s(clicks_s), OWN_NEAR_S)
        by_s = int(np.argmax(summed)) / look.sound.rate_hz - OWN_NEAR_S
        settled = line_through(*look.timed(clicks_s, line.zero_s + by_s)) if abs(by_s) > SURE_S else line
        if settled and float(summed.max()) > best:
            best, found = float(summed.max()), settled
    return Placed(found, look.click, look.fit(found.recorded_s(clicks_s))) if found else None


@dataclass(frozen=True, slots=True)
class Click:
    """A click's sound in its own band, and how to look for it."""

    voice: AnyVoice
    samples: FloatArray
    band: FloatArray
    rate_hz: int

    @classmethod
    def of(cls, voice: AnyVoice, rate_hz: int) -> Click:
        """Return the click of a voice."""
        low, high = (share * pitch_of(voice) for share in BAND)
        band = scipy.signal.butter(2, (low, min(high, 0.45 * rate_hz)), "bandpass", fs=rate_hz, output="sos")
        return cls(voice, scipy.signal.sosfilt(band, click_at(voice, rate_hz)), band, rate_hz)

    def look(self, sound: Sound) -> Look:
        """Look at a recording's first minutes."""
        stop = min(sound.frames, round(ROUGH_MOST_S * self.rate_hz))
        size = round(BLOCK_S * self.rate_hz)
        match, alike = np.zeros(stop, np.float32), np.zeros(stop, np.float32)
        for start in range(0, stop, size):
            last = min(start + size, stop)
            match[start:last], alike[start:last] = self.at(sound, start, last)
        return Look(sound, self, match, alike, (_rough(match, self.rate_hz), _rough(alike, self.rate_hz)))

    def at(self, sound: Sound, start: int, stop: int) -> tuple[FloatArray, FloatArray]:
        """Return match and correlation of some samples."""
        edge, length = round(EDGE_S * self.rate_hz), self.samples.size
        samples = scipy.signal.sosfilt(self.band, sound.read(start - edge, stop + length - 1))[edge:]
        match = scipy.signal.oaconvolve(samples, self.samples[::-1], mode="valid")
        squares = np.concatenate([[0.0], np.cumsum(samples**2)])
        power = np.maximum(squares[length:] - squares[:-length], 1e-12)
        return match, match / np.sqrt(power * np.sum(self.samples**2))


def _some(clicks_s: FloatArray, most: int) -> FloatArray:
    """Return clicks spread evenly over all of them."""
    return clicks_s[np.unique(np.linspace(0, clicks_s.size - 1, min(most, clicks_s.size)).astype(np.int64))]


def _rough(curve: Curve, rate_hz: int) -> FloatArray:
    """Return the highest in each millisecond of a curve, as a share of what is high in all of it."""
    step = rate_hz / GRID_HZ
    edges = (np.arange(int(curve.size / step) + 1) * step).astype(np.int64)
    peaks = np.maximum.reduceat(np.maximum(curve, 0.0), edges[edges < curve.size])
    # What lies above the loudest hundredth is cut, so that a few loud strokes do not outweigh many clicks.
    level = float(np.quantile(peaks, 0.99)) or 1.0
    # Widened, since two clocks may drift apart by this much before each click is timed by itself.
    return maximum_filter1d(np.minimum(peaks / level, 1.0), round(2 * ROUGH_S * GRID_HZ) + 1)


def _starts(wide: FloatArray, clicks_s: FloatArray, zero_s: Range | None) -> list[float]:
    """Return where drill time zero may lie, to some ms: where the schedule fits best, and the next best places."""
    first_s = float(clicks_s[0])
    clicks_s = clicks_s - first_s
    # The whole schedule is laid over all milliseconds in one transform.
    train = np.zeros(round(min(float(clicks_s[-1]), ROUGH_MOST_S) * GRID_HZ) + 1)
    train[np.round(clicks_s[clicks_s <= ROUGH_MOST_S] * GRID_HZ).astype(np.int64)] = 1.0
    # Without its mean, so that a place where everything is loud fits no better than one where the clicks alone are.
    fit = scipy.signal.correlate(wide - wide.mean(), train, mode="full", method="fft")
    if zero_s:
        at_s = (np.arange(fit.size) - train.size + 1) / GRID_HZ - first_s
        fit[(at_s < zero_s[0]) | (at_s > zero_s[1])] = -np.inf
    found = []
    for _ in range(CANDIDATES):
        best = int(np.argmax(fit))
        if fit[best] == -np.inf:
            break
        found.append((best - train.size + 1) / GRID_HZ - first_s)
        fit[max(best - APART, 0) : best + APART] = -np.inf
    return found


def peak_between(three: AnyFloats) -> float:
    """Return where between samples a parabola through three of them peaks."""
    before, here, after = (float(value) for value in three.tolist())
    bend = before - 2 * here + after
    return 0.5 * (before - after) / bend if bend < 0 else 0.0
