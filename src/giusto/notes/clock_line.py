"""Notes stamped by a page's clock, brought into drill time.

The browser reports now and then which moment of the audio clock was sounding at which moment of the
page's clock. A line through these pairs turns the stamps of key presses into audio time. Where the
sound stumbled (a busy machine drops buffers, and all later clicks come late), no line fits, and the
pairs next to each stamp are used instead: what counts is the click that was heard.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

import numpy as np
from numpy.typing import ArrayLike
from scipy.ndimage import median_filter

from giusto.arrays import BoolArray, FloatArray
from giusto.errors import GiustoError

FEWEST_PAIRS = 2
START_PAIRS = 200  # ours: enough for a robust start; the fit itself uses all
OUTLIER_MS = 0.5  # ours: residuals have an SD of 0.04 ms, with rare outliers of 2 ms (measured)
RATE_SD = 1e-4  # ours: how far two clocks of one machine may run apart; measured within 1e-6
PAIR_SD_MS = 0.05  # ours: of one pair about the line; measured 0.04 ms
NEIGHBOURS = 7  # ours: pairs whose median stands for one moment; outliers are rare
PERSISTS = 10  # ours: pairs in a row off the line, a second of them, are no outliers
SLOWEST, FASTEST = 0.5, 1.5  # ours: audio seconds a page second that still come from a clock


@dataclass(frozen=True, slots=True)
class ClockFit:
    """The way from page time to audio time.

    Attributes
    ----------
    offset_s, rate, middle_ms : float
        The line: audio time less page time at ``middle_ms``, and audio seconds gained a page second.
    page_ms, offsets_s : array of float, shape (n,)
        Page time of each pair, ascending, and audio time less page time there, by its neighbours.
    stumbled_ms : float
        How far the sound fell behind in all where no line fits; 0 where the line holds.
    """

    offset_s: float
    rate: float
    middle_ms: float
    page_ms: FloatArray
    offsets_s: FloatArray
    stumbled_ms: float

    def audio_s(self, stamp_ms: ArrayLike) -> FloatArray:
        """Return audio time, in seconds, for page stamps in milliseconds."""
        stamps = np.asarray(stamp_ms, dtype=np.float64)
        if self.stumbled_ms:
            return stamps / 1000 + np.interp(stamps, self.page_ms, self.offsets_s)
        return stamps / 1000 + self.offset_s + self.rate * (stamps - self.middle_ms) / 1000


def fit_clocks(pairs: ArrayLike) -> ClockFit:
    """Find the way from page time to audio time.

    Parameters
    ----------
    pairs : array_like, shape (n, 2)
        Audio time in seconds and page time in milliseconds. Pairs with an audio time of 0 come
        from before the sound ran, and are left out.

    Returns
    -------
    ClockFit

    Raises
    ------
    GiustoError
        ``clock_pairs``, where fewer than two usable pairs remain or they make no clock.

    Notes
    -----
    Theil–Sen on at most 200 pairs for a start, then least squares on all pairs within 0.5 ms of it,
    with the rate drawn towards 0 as far as the pairs leave it open (a normal prior, SD 1e-4): a take
    of a second says nothing of a rate, and its stamps may lie beyond its pairs. The line holds unless
    the running median of seven pairs stays more than 0.5 ms off it for ten pairs on end.
    """
    audio_s, page_ms = _usable(pairs)
    offset_s = audio_s - page_ms / 1000
    middle_ms = float(page_ms.mean())
    apart_s = (page_ms - middle_ms) / 1000
    start_s, rate = _line(offset_s, apart_s)
    local_s = _running_median(offset_s)
    off_ms = 1000 * np.abs(local_s - start_s - rate * apart_s)
    holds = _longest_run(off_ms > OUTLIER_MS) < PERSISTS
    return ClockFit(start_s, rate, middle_ms, page_ms, local_s, 0.0 if holds else 1000 * float(np.ptp(local_s)))


def _running_median(offset_s: FloatArray) -> FloatArray:
    """Return the median of each pair's neighbourhood; at the ends, that of the last whole one."""
    median: FloatArray = median_filter(offset_s, size=NEIGHBOURS)
    half = NEIGHBOURS // 2
    if offset_s.size > NEIGHBOURS:
        median[:half], median[-half:] = median[half], median[-half - 1]
    return median


def _longest_run(flags: BoolArray) -> int:
    return max((len(list(run)) for flag, run in groupby(flags.tolist()) if flag), default=0)


def _usable(pairs: ArrayLike) -> tuple[FloatArray, FloatArray]:
    array = np.asarray(pairs, dtype=np.float64).reshape(-1, 2)
    array = array[np.all(np.isfinite(array), axis=1) & (array[:, 0] > 0)]
    array = array[np.unique(array[:, 1], return_index=True)[1]]
    if len(array) < FEWEST_PAIRS:
        message = f"clock pairs must be at least {FEWEST_PAIRS} with sound running, found {len(array)}"
        raise GiustoError(message, code="clock_pairs")
    audio_s, page_ms = array.T
    speed = 1000 * (audio_s[-1] - audio_s[0]) / (page_ms[-1] - page_ms[0])
    if not SLOWEST <= speed <= FASTEST:
        message = f"clock pairs make {speed:.2f} audio seconds a second, allowed is {SLOWEST} to {FASTEST}"
        raise GiustoError(message, code="clock_pairs")
    return audio_s, page_ms


def _line(offset_s: FloatArray, apart_s: FloatArray) -> tuple[float, float]:
    """Return the line's height at the middle, and its rate."""
    few = np.unique(np.linspace(0, offset_s.size - 1, START_PAIRS).astype(int))
    rate, start_s = theil_sen(apart_s[few], offset_s[few])
    residual_ms = 1000 * (offset_s - start_s - rate * apart_s)
    near: BoolArray = np.abs(residual_ms - np.median(residual_ms)) < OUTLIER_MS
    if not near.any():  # a stumble in the middle of a short take: no line, and the neighbours are used anyway
        near[:] = True
    x_s, y_s = apart_s[near] - apart_s[near].mean(), offset_s[near]
    rate = float(x_s @ y_s / (x_s @ x_s + (PAIR_SD_MS / 1000 / RATE_SD) ** 2))
    return float(y_s.mean() - rate * apart_s[near].mean()), rate


def theil_sen(x: FloatArray, y: FloatArray) -> tuple[float, float]:
    """Return the slope of a line through points, the median of those of all their pairs, and its height at nought.

    As ``scipy.stats.theilslopes``, whose module takes a page's time to be imported.
    """
    across, up = np.subtract.outer(x, x), np.subtract.outer(y, y)
    slope = float(np.median(up[across > 0] / across[across > 0]))
    return slope, float(np.median(y) - slope * np.median(x))
