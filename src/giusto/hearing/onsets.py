"""Onsets in sound: where something is struck, plucked or bowed, timed to the attack.

First a curve of how much louder many bands became, then its peaks, then for each peak the moment at which the sound
itself rises. The curve is made on a grid of frames that does not depend on how the sound comes in, so that block by
block and all at once give the same.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy.fft import rfft
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.hearing.alike import WORKERS, aligned
from giusto.hearing.others import covered_own, others
from giusto.hearing.sound import Sound, Thinned

# All of it ours, by the takes of tests/giusto/hearing and their known times.
CHUNK, TOGETHER = 1024, 64  # frames and attacks that are looked at together
LOOKS = 10_000  # of frames, from which is told what is quiet and what is loud
FLOOR_SHARE, ABOVE_FLOOR_DB = 0.02, 8.0  # what is softer than this above the quiet fifth of a band is noise
MOST_RISE_DB, MOST_RANGE_DB = 30.0, 65.0  # of a band, and below the loudest there is nothing
AROUND_S, ABOVE_MEAN = 0.08, 1.1  # a peak is so many times the mean of the curve around it
MOST_AROUND_DB = 4.0  # so that strokes close together do not hide one another
REFRACTORY_S = 0.045
BOWED_LATE_S, BOWED_ALONE_S = 0.020, 0.110  # from a frame's begin to the onset; no struck one is nearer
# Of a soft onset's rise, as a share of what is usual in a take, and of the struck layer's curve about it, in dB.
LEAST_SOFT, ATTACK_COUNTS, ATTACK_NEAR_S = 0.47, 0.5, 0.05
LEAST_COVERED = 0.3  # of what is usual: the rise of a soft note that another's attack stands over
MOSTLY = 2  # times as many onsets that only the slow layer shows: the take is bowed, or sung
BURSTS_S, FIRST_SHARE = 0.032, 0.45  # of several bursts the first counts that is so much of the highest
EDGE_S = 0.02
HIGH_PASSES = ((40.0, 1.5), (700.0, 1.0), (3000.0, 0.8))  # Hz, and how much each is preferred
MOST_CONTRAST = 100.0
SMOOTH_S = 0.001
ATTACK = 0.015  # of the peak: some −36 dB
SHARE_OF_RISE = 0.12  # of the way from what rang before to the peak
BURST_S = 0.012
BEFORE_S, AFTER_S = 0.040, 0.045  # how far around a peak of the curve the attack is looked for
SOFTEST_DB = -60.0  # full scale is 0: strength 0


@dataclass(frozen=True, slots=True)
class Layer:
    """A way to look at sound: frames, bands, and what each frame is set against, the loudest of some before it."""

    hop_s: float
    window_s: float
    lowest_hz: float
    highest_hz: float
    bands: int
    near_s: float
    far_s: float
    least_db: float

    def hop(self, rate_hz: int) -> int:
        """Return how many samples a frame stands after the one before it."""
        return max(round(self.hop_s * rate_hz), 1)


STRUCK = Layer(96 / 44_100, 512 / 44_100, 60.0, 16_000.0, 18, 0.007, 0.018, 1.7)
BOWED = Layer(512 / 44_100, 4096 / 44_100, 90.0, 4_900.0, 120, 0.070, 0.120, 1.0)


@dataclass(frozen=True, slots=True)
class Heard:
    """Onsets, ascending.

    Attributes
    ----------
    onset_s : array of float, shape (n,)
        Seconds from the first sample.
    strength : array of float, shape (n,)
        0 to 1: the peak of the attack, 60 dB below full scale to full scale.
    others : int
        How many more there were, left out as another's (``giusto.hearing.others``).
    """

    onset_s: FloatArray
    strength: FloatArray
    others: int = 0


def onsets(sound: Sound) -> Heard:
    """Return the onsets of a sound.

    Parameters
    ----------
    sound : Sound

    Returns
    -------
    Heard

    Notes
    -----
    The rise of a band is its level in dB less the highest level of it and its neighbours some 8 to 22 ms before; the
    mean of the rises over the bands is the curve (after Böck & Widmer 2013, Maximum filter vibrato suppression for
    onset detection, DAFx; from memory). An onset is where the high-passed sound first stands at a tenth of the
    attack's peak, or clear above what rang before, moved to where it rises as the others do (``alike``).
    """
    rate = sound.rate_hz
    struck, bowed = _peaks_of(sound, STRUCK), _peaks_of(sound, BOWED)
    hard, swelling = struck.at, _swelling(bowed, struck, rate)
    soft, alone = swelling, _far(swelling, hard, rate)
    swells = np.count_nonzero(alone) > MOSTLY * hard.size
    if swells:  # one layer times all that it can: both don't time a bow alike
        hard = hard[_far(hard, soft, rate)]
    else:
        soft = soft[alone]
    rising = [(at, level) for at, level in _attacks(sound, hard.tolist()) if at is not None]
    timed = np.array([*rising, *((at / rate, _level(sound, at)) for at in soft.tolist())]).reshape(-1, 2)
    found, strength = timed[:, 0], timed[:, 1]
    if not swells:  # what swells has no attack in common
        found = aligned(sound, found)
    order = np.argsort(found, kind="stable")
    found, strength = found[order], strength[order]
    kept = np.diff(found, prepend=-1.0) >= REFRACTORY_S / 2
    found, strength = found[kept], strength[kept]
    own = ~others(sound, found)
    more = np.zeros(0, dtype=np.int64) if own.all() else _covered(sound, found, own, swelling, bowed)
    strength = np.concatenate([strength[own], [_level(sound, at) for at in more.tolist()]])
    left_out, found = int(np.count_nonzero(~own)), np.concatenate([found[own], more / rate])
    order = np.argsort(found, kind="stable")
    return Heard(found[order], strength[order], left_out)


@dataclass(frozen=True, slots=True)
class Peaks:
    """Where a layer peaks.

    Attributes
    ----------
    curve : array of float, shape (frames,)
    hop : int
        Samples from frame to frame.
    at : array of int, shape (n,)
        The samples at which the frames begin in which it peaks, ascending.
    """

    curve: NDArray[np.float32]
    hop: int
    at: IntArray

    @property
    def height(self) -> NDArray[np.float32]:
        """Of each peak, shape (n,)."""
        return self.curve[self.at // self.hop]

    def highest(self, first: IntArray, last: IntArray) -> FloatArray:
        """Return the highest of the curve between some samples, 0 where there is none of it; shape (n,)."""
        frames = zip((np.maximum(first, 0) // self.hop).tolist(), (last // self.hop).tolist(), strict=True)
        return np.array([float(np.max(self.curve[begin:end], initial=0.0)) for begin, end in frames])


def _peaks_of(sound: Sound, layer: Layer) -> Peaks:
    factor = _factor(sound.rate_hz, layer)
    seen = Thinned(sound, factor) if factor > 1 else sound
    levels, hop = band_levels(seen, layer), layer.hop(seen.rate_hz)
    if not levels.shape[0]:
        return Peaks(np.zeros(0, dtype=np.float32), hop * factor, np.zeros(0, dtype=np.int64))
    curve = rise_curve(levels, layer, seen.rate_hz)
    return Peaks(curve, hop * factor, _peaks(curve, layer, hop / seen.rate_hz) * hop * factor)


def _swelling(bowed: Peaks, struck: Peaks, rate_hz: int) -> IntArray:
    """Return the samples of onsets that the slow layer shows, ascending.

    What rings on beats and swells: a small rise is one only where the fast layer shows a little of an attack.
    """
    at, near = bowed.at + round(BOWED_LATE_S * rate_hz), round(ATTACK_NEAR_S * rate_hz)
    if not at.size:
        return at
    rise = bowed.height / np.median(bowed.height) + ATTACK_COUNTS * struck.highest(at - near, at + near)
    found: IntArray = at[rise >= LEAST_SOFT]
    return found


def _covered(sound: Sound, found: FloatArray, own: BoolArray, swelling: IntArray, bowed: Peaks) -> IntArray:
    """Return the samples of soft notes of one's own that another's attacks stand over."""
    late, near = round(BOWED_LATE_S * sound.rate_hz), round(ATTACK_NEAR_S * sound.rate_hz)
    ours = np.round(found[own] * sound.rate_hz).astype(np.int64)
    some = swelling[_far(swelling, ours, sound.rate_hz)]
    usual = np.median(bowed.highest(ours - late - near, ours - late + near)) if ours.size else 0.0
    some = some[bowed.highest(some - late, some - late + bowed.hop) >= LEAST_COVERED * usual]
    more: IntArray = some[covered_own(sound, found, own, some / sound.rate_hz)]
    return more


def _far(some: IntArray, others: IntArray, rate_hz: int) -> BoolArray:
    """Return which of some samples have none of others near them; both ascending."""
    after = np.searchsorted(others, some)
    fenced = np.concatenate([[-np.inf], others, [np.inf]])
    far: BoolArray = np.minimum(some - fenced[after], fenced[after + 1] - some) >= round(BOWED_ALONE_S * rate_hz)
    return far


def _factor(rate_hz: int, layer: Layer) -> int:
    """Return by how much a sound may be thinned for a layer: its highest band stays below 0.45 of the rate."""
    most = int(0.45 * rate_hz / layer.highest_hz)
    return max((factor for factor in range(1, most + 1) if rate_hz % factor == 0), default=1)


def _level(sound: Sound, at: int) -> float:
    """Return the strength of a soft onset, by the sound just after it."""
    peak = float(np.max(np.abs(sound.read(at, at + round(0.1 * sound.rate_hz)))))
    return float(np.clip(1 - 20 * np.log10(max(peak, 1e-9)) / SOFTEST_DB, 0.0, 1.0))


def band_levels(sound: Sound, layer: Layer) -> NDArray[np.float16]:
    """Return the level of each band in each frame in dB, shape (frames, bands); frame k begins at sample k · hop."""
    hop, size = layer.hop(sound.rate_hz), round(layer.window_s * sound.rate_hz)
    window = np.hanning(size + 2)[1:-1].astype(np.float32)
    edges = _band_edges(layer, size, sound.rate_hz)
    total = max((sound.frames - size) // hop + 1, 0)
    levels = np.empty((total, edges.size - 1), dtype=np.float16)
    for first in range(0, total, CHUNK):
        count = min(CHUNK, total - first)
        samples = sound.read(first * hop, (first + count - 1) * hop + size).astype(np.float32)
        frames = np.lib.stride_tricks.sliding_window_view(samples, size)[::hop]
        spectrum = rfft(frames * window, axis=1, workers=WORKERS, overwrite_x=True)[:, edges[0] : edges[-1]]
        power = np.square(spectrum.real) + np.square(spectrum.imag)
        bands = np.add.reduceat(power, edges[:-1] - edges[0], axis=1)
        levels[first : first + count] = 10 * np.log10(np.maximum(bands, 1e-10))
    return levels


def rise_curve(levels: NDArray[np.float16], layer: Layer, rate_hz: int) -> NDArray[np.float32]:
    """Return how much louder the bands became, as the mean over them, in dB for each frame."""
    hop_s = layer.hop(rate_hz) / rate_hz
    near, far = round(layer.near_s / hop_s), round(layer.far_s / hop_s)
    # Below the room's own level nothing rises: a band is lifted to just above what it holds in quiet, and none reaches
    # further under the loudest than a stroke decays, so that hiss is not heard as a note.
    some = levels[:: max(levels.shape[0] // LOOKS, 1)].astype(np.float32)
    floor: FloatArray = np.quantile(some, FLOOR_SHARE, axis=0)
    loudest = float(np.quantile(some.max(axis=1), 0.999))
    floor = np.maximum(floor, loudest - MOST_RANGE_DB) + ABOVE_FLOOR_DB
    curve = np.zeros(levels.shape[0], dtype=np.float32)
    for first in range(0, levels.shape[0], CHUNK):
        begin = max(first - far - 1, 0)
        here = np.maximum(levels[begin : first + CHUNK].astype(np.float32), floor)
        # A pitch that slides into the next band is no new note: each band is set against its neighbours as well,
        # by the loudest of the frames from far to near before each one.
        wide = here.copy()
        np.maximum(wide[:, 1:], here[:, :-1], out=wide[:, 1:])
        np.maximum(wide[:, :-1], here[:, 1:], out=wide[:, :-1])
        highest = _highest(wide, far - near + 1)
        before = np.vstack([np.repeat(highest[:1], near, axis=0), highest])[: here.shape[0]]
        # Cut, so that one band with a click in it counts no more than many with a soft stroke.
        rise = np.clip(here - before, 0.0, MOST_RISE_DB).mean(axis=1)
        curve[first : first + CHUNK] = rise[first - begin :]
    return curve


def _highest(levels: NDArray[np.float32], length: int) -> NDArray[np.float32]:
    """Return the highest of each band in so many frames up to each one; before the first they are as after it."""
    frames, reach = len(levels), 1
    found = np.pad(levels, ((length - 1, 0), (0, 0)), mode="symmetric")
    while 2 * reach <= length:  # of twice as many each time
        found = np.maximum(found[:-reach], found[reach:])
        reach *= 2
    highest: NDArray[np.float32] = np.maximum(found[:frames], found[length - reach :][:frames])
    return highest


def _band_edges(layer: Layer, size: int, rate_hz: int) -> IntArray:
    """Return the first bin of each band, and one past the last."""
    highest = min(layer.highest_hz, 0.45 * rate_hz)
    bins = np.geomspace(layer.lowest_hz, highest, layer.bands + 1) * size / rate_hz
    edges = np.unique(np.maximum(np.round(bins), 1).astype(np.int64))
    return edges[edges <= size // 2]


def _peaks(curve: NDArray[np.float32], layer: Layer, hop_s: float) -> IntArray:
    """Return the frames at which the curve first peaks, clear above what is around, none within the refractory time."""
    # Clear of what is around, where a roll or a loud room lifts all of it; and its first peak: a stroke may have two.
    around = uniform_filter1d(np.minimum(curve, MOST_AROUND_DB), 2 * round(AROUND_S / hop_s) + 1, mode="nearest")
    ahead = round(BURSTS_S / hop_s)
    coming = maximum_filter1d(curve, ahead + 1, mode="nearest", origin=-(ahead // 2))
    is_peak = (curve == maximum_filter1d(curve, 5, mode="nearest")) & (curve >= FIRST_SHARE * coming)
    found = np.flatnonzero(is_peak & (curve >= layer.least_db) & (curve >= ABOVE_MEAN * around))
    kept: list[int] = []
    for frame in found.tolist():
        if not kept or (frame - kept[-1]) * hop_s >= max(REFRACTORY_S, layer.window_s):
            kept.append(frame)
    return np.array(kept, dtype=np.int64)


def _attacks(sound: Sound, peaks: list[int]) -> Iterator[tuple[float | None, float]]:
    """Give where the sound rises near each sample, in seconds, and how strong it is; None where it does not rise.

    The sound is looked at as it is and without its lower parts, where an attack stands clearer above what rings on.
    """
    rate = sound.rate_hz
    before, after, edge = (round(s * rate) for s in (BEFORE_S, AFTER_S, EDGE_S))
    size = max(round(SMOOTH_S * rate), 1)
    passes = [(high_pass_hz, preferred) for high_pass_hz, preferred in HIGH_PASSES if high_pass_hz <= 0.4 * rate]
    for first in range(0, len(peaks), TOGETHER):
        starts = [near - before - edge for near in peaks[first : first + TOGETHER]]
        samples = np.stack([sound.read(start, start + before + edge + after) for start in starts])
        levels = [
            _levels(scipy.signal.sosfilt(_high_pass(hz, rate), samples, axis=1)[:, edge:], size) for hz, _ in passes
        ]
        for row, start in enumerate(starts):
            looks = [(level[row], preferred) for level, (_, preferred) in zip(levels, passes, strict=True)]
            at, strength = _attack(looks, before // 2, round(BURST_S * rate))
            yield None if at is None else (start + edge + at) / rate, strength


def _attack(looks: list[tuple[FloatArray, float]], before: int, gap: int) -> tuple[int | None, float]:
    """Return the sample at which a sound rises, by the look at it in which that stands out most, and its strength."""
    best, at, peak_level = 0.0, None, 0.0
    for level, preferred in looks:
        peak_at = before + int(np.argmax(level[before:]))
        peak, rang = float(level[peak_at]), float(np.max(level[:before]))
        peak_level = max(peak_level, peak)
        contrast = preferred * min(peak / max(rang, 1e-9), MOST_CONTRAST)
        if peak > 0 and contrast > best:
            least = max(ATTACK * peak, rang + SHARE_OF_RISE * (peak - rang))
            first_at = before + int(np.argmax(level[before : peak_at + 1] >= rang + FIRST_SHARE * (peak - rang)))
            best, at = contrast, _rises(level, first_at, least, gap)
    if at is None:
        return None, 0.0
    return at, float(np.clip(1 - 20 * np.log10(max(peak_level, 1e-9)) / SOFTEST_DB, 0.0, 1.0))


@cache
def _high_pass(high_pass_hz: float, rate_hz: int) -> FloatArray:
    """Return the filter, designed once: that takes longer than to use it."""
    found: FloatArray = scipy.signal.butter(2, high_pass_hz, "highpass", fs=rate_hz, output="sos")
    return found


def _rises(level: FloatArray, peak_at: int, least: float, gap: int) -> int:
    """Return where a level first stands above a bound on its way to a peak; dips shorter than a gap are none."""
    above = np.flatnonzero(level[: peak_at + 1] >= least)
    if not above.size:
        return peak_at
    breaks = np.flatnonzero(np.diff(above) > gap)
    return int(above[breaks[-1] + 1] if breaks.size else above[0])


def _levels(passed: FloatArray, size: int) -> FloatArray:
    """Return the level of each sample of each row: root of the mean square of it and those just before it."""
    total = np.zeros((passed.shape[0], size + passed.shape[1]))
    np.cumsum(np.square(passed), axis=1, out=total[:, size:])
    found: FloatArray = total[:, size:] - total[:, :-size]
    np.maximum(found, 0.0, out=found)
    found /= size
    return np.sqrt(found, out=found)
