"""Checking onset times at the public door."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from giusto.errors import GiustoError

MAX_ONSETS = 1_000_000  # ours: two hours of sixteenths at 400 bpm stay below it
LATEST_S = 1_000_000.0  # ours: the longest drill of drill/1 lasts under 800,000 s


def checked_onsets(onsets_s: ArrayLike, *, lines: Sequence[int] | None = None) -> NDArray[np.float64]:
    """Return onsets as an array, or say what is wrong with them and where.

    Parameters
    ----------
    onsets_s : array_like, shape (n,)
        Seconds from the drill's time zero, ascending, finite.
    lines : sequence of int, optional
        The line of the file that each onset stands on, for the message.

    Returns
    -------
    array of float, shape (n,)

    Raises
    ------
    GiustoError
        ``not_1d``, ``not_finite``, ``out_of_range``, ``not_ascending`` or ``too_many``.
    """
    onsets = np.asarray(onsets_s, dtype=np.float64)
    if onsets.ndim != 1:
        raise GiustoError(f"onsets_s must have one dimension, not {onsets.ndim}", code="not_1d")
    if onsets.size > MAX_ONSETS:
        raise GiustoError(f"onsets_s has {onsets.size:,} onsets, allowed are {MAX_ONSETS:,}", code="too_many")

    def where(index: int) -> str:
        return f"at line {lines[index]}" if lines is not None else f"at index {index}"

    if (bad := np.flatnonzero(~np.isfinite(onsets))).size:
        raise GiustoError(f"onsets_s must be finite: {onsets[bad[0]]} {where(bad[0])}", code="not_finite")
    if (bad := np.flatnonzero(np.abs(onsets) > LATEST_S)).size:
        message = f"onsets_s must lie within ±{LATEST_S:,.0f} s: {onsets[bad[0]]} {where(bad[0])}"
        raise GiustoError(message, code="out_of_range")
    if (bad := np.flatnonzero(np.diff(onsets) < 0)).size:
        before, after = onsets[bad[0]], onsets[bad[0] + 1]
        message = f"onsets_s must ascend: {after} s after {before} s {where(bad[0] + 1)}"
        raise GiustoError(message, code="not_ascending")
    return onsets
