"""The click as it is heard in a recording: found, timed and taken out; and the recorder's clock from it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
from scipy.ndimage import maximum_filter1d
from scipy.signal import butter, correlate, oaconvolve, sosfilt

from giusto.arrays import FloatArray
from giusto.click.voice import RATES_HZ, VOICES, click_samples
from giusto.hearing.sound import Sound
from giusto.hearing.source import RestsOn
from giusto.ranges import Z95, Range
from giusto.schedule import Schedule

GRID_HZ = 1000  # ours: of the first, rough alignment
ROUGH_S = 0.012  # how far clocks may drift apart before the fine alignment
NEAR_S = 0.030  # around its place a click is looked for
LEAST_ALIKE = 0.45  # correlation of a click that is there, in its own band
LEAST_FOUND, MOST_SD_S = 0.12, 0.0006  # of the scheduled clicks, and about their line: less, or wider, is no bleed
FEWEST_CLICKS, LEAST_KEPT = 4, 0.75
SURE_S = 0.001
CANDIDATES, APART = 4, 60  # places of time zero that are tried, so many ms apart
BAND = (0.8, 3.6)  # of a click's pitch: where it is looked for
MOST_PPM = 1000.0
BEFORE_S, AFTER_S = 0.004, 0.160  # of a click's sound in a room
LEAST_SD_S = 2e-5  # no click is timed better than this
BLOCK_S, EDGE_S = 20.0, 0.1
ROUGH_MOST_S = 240.0  # of a long recording its first minutes tell where it begins
TRIED, MOST_TIMED = 80, 600  # clicks that a place is tried with, and that the line is laid through


@dataclass(frozen=True, slots=True)
class Line:
    """Where drill time lies in a recording.

    Attributes
    ----------
    zero_s : float
        The recording's time of the drill's time zero.
    zero_ci95_s : (float, float)
    ppm : float or None
        How much faster the recorder's clock runs, in millionths; None where it can't be told.
    ppm_ci95 : (float, float) or None
    by : {"bleed", "count", "notes", "clock", "file"}
        The click that is heard; notes of the count-in; notes alone; the clock of the machine that plays and hears; a
        file that is in drill time already.
    alike : float
        For bleed, the share of the scheduled clicks that were found.
    """

    zero_s: float
    zero_ci95_s: Range
    ppm: float | None
    ppm_ci95: Range | None
    by: RestsOn
    alike: float = 0.0

    @property
    def rate(self) -> float:
        """Recorder seconds in a second of the drill."""
        return 1 + (self.ppm or 0.0) * 1e-6

    def drill_s(self, recorded_s: FloatArray) -> FloatArray:
        """Return drill times of times in the recording."""
        return (recorded_s - self.zero_s) / self.rate

    def recorded_s(self, drill_s: FloatArray) -> FloatArray:
        """Return times in the recording of drill times."""
        return self.zero_s + drill_s * self.rate


def find_click(
    sound: Sound, plan: Schedule, *, voices: Iterable[str] = VOICES, zero_s: Range | None = None
) -> Line | None:
    """Return where the clicks of a drill are heard in a recording; None where they are not.

    Parameters
    ----------
    sound : Sound
    plan : Schedule
    voices : iterable of str
        Sounds that the click may have.
    zero_s : (float, float), optional
        Between which times of the recording the drill's time zero lies, where that is known.

    Notes
    -----
    The recording is filtered with the sound of each voice's click; what stands out is set against the whole
    schedule, so that silences tell one cycle from the next; each click is then timed by itself, and a line through
    all of them, by least absolute error first, gives time zero and the recorder's clock.
    """
    clicks_s = plan.seconds(plan.clicks.tick)
    found = placed(sound, clicks_s, voices=voices, zero_s=zero_s)
    return (
        _line(*found.click.timed(sound, _some(clicks_s, MOST_TIMED), found.line.zero_s)) or found.line
        if found
        else None
    )


@dataclass(frozen=True, slots=True)
class Placed:
    """Where clicks lie in a recording, and by which sound they were found."""

    line: Line
    click: Click


def placed(
    sound: Sound, clicks_s: FloatArray, *, voices: Iterable[str] = VOICES, zero_s: Range | None = None
) -> Placed | None:
    """Return where clicks at known times lie in a recording; None where they are not heard (``find_click``)."""
    if zero_s:
        within = (clicks_s + zero_s[0] > 0) & (clicks_s + zero_s[1] < sound.frames / sound.rate_hz)
        clicks_s = clicks_s[within]
    if clicks_s.size < FEWEST_CLICKS:
        return None
    best, found = 0.0, None
    for voice in voices:
        click = Click.of(voice, sound.rate_hz)
        starts = {start for curve in click.curves(sound) for start in _rough(curve, sound.rate_hz, clicks_s, zero_s)}
        for start_s in sorted(starts):
            line = _line(*click.timed(sound, _some(clicks_s, TRIED), start_s))
            fit = _fit(sound, click, line.recorded_s(_some(clicks_s, TRIED))) if line else 0.0
            if line and (found is None or fit > best):
                best, found = fit, Placed(line, click)
    return found


@dataclass(frozen=True, slots=True)
class Click:
    """A click's sound in its own band, and how to look for it."""

    samples: FloatArray
    band: FloatArray
    rate_hz: int

    @classmethod
    def of(cls, voice: str, rate_hz: int) -> Click:
        """Return the click of a voice."""
        low, high = (share * VOICES[voice].pitch_hz for share in BAND)
        band = butter(2, (low, min(high, 0.45 * rate_hz)), "bandpass", fs=rate_hz, output="sos")
        return cls(sosfilt(band, _resampled(voice, rate_hz)), band, rate_hz)

    def curves(self, sound: Sound) -> tuple[FloatArray, FloatArray]:
        """Return how a recording's first minutes match the click at each sample, and their correlation with it."""
        stop = min(sound.frames, round(ROUGH_MOST_S * self.rate_hz))
        size = round(BLOCK_S * self.rate_hz)
        found = [self.at(sound, start, min(start + size, stop)) for start in range(0, stop, size)]
        match, alike = (np.concatenate(some) for some in zip(*found, strict=True))
        return match, alike

    def at(self, sound: Sound, start: int, stop: int) -> tuple[FloatArray, FloatArray]:
        """Return match and correlation of some samples."""
        edge, length = round(EDGE_S * self.rate_hz), self.samples.size
        samples = sosfilt(self.band, sound.read(start - edge, stop + length - 1))[edge:]
        match = oaconvolve(samples, self.samples[::-1], mode="valid")
        squares = np.concatenate([[0.0], np.cumsum(samples**2)])
        power = np.maximum(squares[length:] - squares[:-length], 1e-12)
        return match, match / np.sqrt(power * np.sum(self.samples**2))

    def timed(self, sound: Sound, clicks_s: FloatArray, start_s: float) -> tuple[FloatArray, FloatArray, float]:
        """Return which clicks are found about a place of time zero, when they are heard, and the share found."""
        rate, near = sound.rate_hz, round(NEAR_S * sound.rate_hz)
        at_s, found_s = [], []
        for click_s in clicks_s.tolist():
            middle = round((start_s + click_s) * rate)
            match, alike = self.at(sound, middle - near, middle + near)
            peak = int(np.argmax(match))
            if alike[peak] >= LEAST_ALIKE and 0 < peak < match.size - 1:
                at_s.append(click_s)
                found_s.append((middle - near + peak + _between(match[peak - 1 : peak + 2])) / rate)
        return np.array(at_s), np.array(found_s), len(found_s) / clicks_s.size


def _some(clicks_s: FloatArray, most: int) -> FloatArray:
    """Return clicks spread evenly over all of them."""
    return clicks_s[np.unique(np.linspace(0, clicks_s.size - 1, min(most, clicks_s.size)).astype(np.int64))]


def _resampled(voice: str, rate_hz: int) -> FloatArray:
    """Return a click's sound at any rate."""
    known = min(RATES_HZ, key=lambda rate: abs(rate - rate_hz))
    samples = click_samples(voice, "click", rate_hz=known).astype(np.float64)
    if known == rate_hz:
        return samples
    count = round(samples.size * rate_hz / known)
    return np.interp(np.arange(count) / rate_hz, np.arange(samples.size) / known, samples)


def _rough(curve: FloatArray, rate_hz: int, clicks_s: FloatArray, zero_s: Range | None) -> list[float]:
    """Return where drill time zero may lie, to some ms: where the schedule fits best, and the next best places."""
    first_s = float(clicks_s[0])
    clicks_s = clicks_s - first_s
    step = rate_hz / GRID_HZ
    edges = (np.arange(int(curve.size / step) + 1) * step).astype(np.int64)
    peaks = np.maximum.reduceat(np.maximum(curve, 0.0), edges[edges < curve.size])
    level = float(np.quantile(peaks, 0.99)) or 1.0
    wide = maximum_filter1d(np.minimum(peaks / level, 1.0), round(2 * ROUGH_S * GRID_HZ) + 1)
    train = np.zeros(round(min(float(clicks_s[-1]), ROUGH_MOST_S) * GRID_HZ) + 1)
    train[np.round(clicks_s[clicks_s <= ROUGH_MOST_S] * GRID_HZ).astype(np.int64)] = 1.0
    fit = correlate(wide - wide.mean(), train, mode="full", method="fft")
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


def _line(at_s: FloatArray, found_s: FloatArray, share: float) -> Line | None:
    """Return a line through the clicks that were found about a place of time zero; None where they are too few."""
    if at_s.size < FEWEST_CLICKS or share < LEAST_FOUND:
        return None
    slope, zero, kept, sd = _robust(at_s, found_s)
    if sd > MOST_SD_S or kept.sum() < FEWEST_CLICKS or kept.mean() < LEAST_KEPT:
        return None
    x = at_s[kept]
    spread = float(np.sum((x - x.mean()) ** 2))
    ppm = 1e6 * (slope - 1)
    if abs(ppm) > MOST_PPM or spread == 0:
        return None
    half = Z95 * sd / float(np.sqrt(spread)) * 1e6
    half_s = Z95 * sd * float(np.sqrt(1 / x.size + x.mean() ** 2 / spread))
    return Line(zero, (zero - half_s, zero + half_s), ppm, (ppm - half, ppm + half), "bleed", round(share, 3))


def _fit(sound: Sound, click: Click, places_s: FloatArray) -> float:
    """Return how much of a schedule is heard where a line puts it; a click that is not there counts against it."""
    near = round(SURE_S * sound.rate_hz)
    frames = np.round(places_s * sound.rate_hz).astype(np.int64).tolist()
    alike = [float(np.max(click.at(sound, frame - near, frame + near + 1)[1])) for frame in frames]
    return float(np.mean(np.maximum(alike, 0.0)))


def _robust(x: FloatArray, y: FloatArray) -> tuple[float, float, np.ndarray, float]:
    """Return slope and start of a line through most points, which those are, and their spread about it."""
    kept = np.ones(x.size, dtype=bool)
    slope, start = 1.0, float(np.median(y - x))
    for _ in range(6):
        rest = y - start - slope * x
        sd = max(1.4826 * float(np.median(np.abs(rest[kept] - np.median(rest[kept])))), LEAST_SD_S)
        kept = np.abs(rest - np.median(rest[kept])) <= 4 * sd
        slope, start = np.polyfit(x[kept], y[kept], 1) if np.ptp(x[kept]) > 0 else (1.0, float(np.median(y - x)))
    rest = y[kept] - start - slope * x[kept]
    sd = max(float(np.sqrt(np.sum(rest**2) / max(rest.size - 2, 1))), LEAST_SD_S)
    return float(slope), float(start), kept, sd


def _between(three: FloatArray) -> float:
    """Return where between samples a parabola through three of them peaks."""
    before, here, after = (float(value) for value in three.tolist())
    bend = before - 2 * here + after
    return 0.5 * (before - after) / bend if bend < 0 else 0.0


@dataclass
class WithoutClick:
    """A recording with the click taken out: what sounds alike at every click is taken away from each.

    Attributes
    ----------
    sound : Sound
    line : Line
    plan : Schedule
    """

    sound: Sound
    line: Line
    plan: Schedule
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
                scale = float(np.clip(window @ click / max(float(click @ click), 1e-12), 0.0, 2.0))
                samples[begin - start : end - start] -= scale * click[begin - whole : end - whole]
        return samples

    @property
    def _before(self) -> int:
        return round(BEFORE_S * self.rate_hz)

    @property
    def _size(self) -> int:
        return round((BEFORE_S + AFTER_S) * self.rate_hz)

    def _learned(self, frames: FloatArray) -> FloatArray:
        """Return what is alike around some clicks: the mean of few, the median of many, which notes do not move."""
        chosen = frames[np.linspace(0, frames.size - 1, min(frames.size, 80)).astype(np.int64)]
        windows = []
        for at in chosen.tolist():
            whole = int(np.floor(at)) - self._before
            windows.append(_shifted(self.sound.read(whole, whole + self._size), np.floor(at) - at))
        found: FloatArray = np.mean(windows, axis=0) if len(windows) < 6 else np.median(windows, axis=0)
        return found


def _shifted(samples: FloatArray, by: float) -> FloatArray:
    """Return samples moved by a part of a sample, to the right where positive."""
    if by == 0:
        return samples
    spectrum = np.fft.rfft(samples, 2 * samples.size)
    turn = np.exp(-2j * np.pi * np.fft.rfftfreq(2 * samples.size) * by)
    found: FloatArray = np.fft.irfft(spectrum * turn, 2 * samples.size)[: samples.size]
    return found
