"""Notes stamped by a page's clock, brought into drill time.

The browser reports now and then which moment of the audio clock was sounding at which moment of the
page's clock. The line through these pairs turns the stamps of key presses into audio time.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.stats import theilslopes

from giusto.errors import GiustoError
from giusto.timeline import FloatArray

FEWEST_PAIRS = 2
START_PAIRS = 200  # ours: enough for a robust start; the fit itself uses all
OUTLIER_MS = 0.5  # ours: residuals have an SD of 0.04 ms, with rare outliers of 2 ms (measured)
RATE_SD = 1e-4  # ours: how far two clocks of one machine may run apart; measured within 1e-6
PAIR_SD_MS = 0.05  # ours: of one pair about the line; measured 0.04 ms
FASTEST = 0.05  # ours: pairs that run apart faster than this come from no clocks


@dataclass(frozen=True, slots=True)
class ClockFit:
    """The line from page time to audio time.

    Attributes
    ----------
    offset_s : float
        Audio time less page time, at ``middle_ms``.
    rate : float
        Audio seconds gained for each page second, near 0.
    middle_ms : float
        The page time about which the line is written.
    residual_ms : float
        Standard deviation of the pairs kept, about the line.
    """

    offset_s: float
    rate: float
    middle_ms: float
    residual_ms: float

    def audio_s(self, stamp_ms: ArrayLike) -> FloatArray:
        """Return audio time, in seconds, for page stamps in milliseconds."""
        page_ms = np.asarray(stamp_ms, dtype=np.float64)
        return page_ms / 1000 + self.offset_s + self.rate * (page_ms - self.middle_ms) / 1000


def fit_clocks(pairs: ArrayLike) -> ClockFit:
    """Fit the line through clock pairs, robustly.

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
    of a second says nothing of a rate, and its stamps may lie beyond its pairs.
    """
    array = np.asarray(pairs, dtype=np.float64).reshape(-1, 2)
    array = array[np.all(np.isfinite(array), axis=1) & (array[:, 0] > 0)]
    if np.unique(array[:, 1]).size < FEWEST_PAIRS:
        message = f"clock pairs must be at least {FEWEST_PAIRS} with sound running, found {len(array)}"
        raise GiustoError(message, code="clock_pairs")
    page_ms = array[:, 1]
    offset_s = array[:, 0] - page_ms / 1000
    middle_ms = float(page_ms.mean())
    apart_s = (page_ms - middle_ms) / 1000
    few = np.unique(np.linspace(0, len(array) - 1, START_PAIRS).astype(int))
    rate, start_s = theilslopes(offset_s[few], apart_s[few])[:2]
    residual_ms = 1000 * (offset_s - start_s - rate * apart_s)
    near = np.abs(residual_ms - np.median(residual_ms)) < OUTLIER_MS
    if abs(rate) > FASTEST:
        raise GiustoError(f"clock pairs run apart by {rate:.4f}, allowed is {FASTEST}", code="clock_pairs")
    x_s, y_s = apart_s[near] - apart_s[near].mean(), offset_s[near]
    rate = float(x_s @ y_s / (x_s @ x_s + (PAIR_SD_MS / 1000 / RATE_SD) ** 2))
    start_s = float(y_s.mean() - rate * apart_s[near].mean())
    residual_ms = 1000 * (y_s - start_s - rate * apart_s[near])
    return ClockFit(start_s, rate, middle_ms, float(residual_ms.std()))
