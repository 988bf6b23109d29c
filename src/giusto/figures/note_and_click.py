"""Are note and click as one: how many fall so close that they can't be told apart, and for how long."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.arrays import FloatArray
from giusto.missing import Missing

# From memory: about 2 ms apart two clicks are heard as two, about 20 ms (15–20) apart their order is
# heard (Hirsh 1959, J Acoust Soc Am 31:759).
FUSED_MS, ORDERED_MS = 2.0, 20.0
FEWEST_BOTH = 4  # ours


@dataclass(frozen=True, slots=True)
class Together:
    """How near notes came to the clicks they were asked with, about the player's own place.

    Attributes
    ----------
    n : int
        Notes that were asked together with a sounding click.
    fused_percent, unordered_percent : float
        Share within ``FUSED_MS`` and within ``ORDERED_MS``.
    longest : int
        Most clicks in a row with a note within ``ORDERED_MS``; a missed note ends the row.
    longest_s : float
        From the first of them to the last.
    """

    n: int
    fused_percent: float
    unordered_percent: float
    longest: int
    longest_s: float


def together(apart_ms: FloatArray, click_s: FloatArray) -> Together | Missing:
    """Return how near notes and clicks came, or why it can't be said.

    Parameters
    ----------
    apart_ms : array of float, shape (clicks,)
        Note less click less the player's place, for each click with a note asked; NaN where it was
        missed. With the place taken off, the delay of the device has no part in it.
    click_s : array of float, shape (clicks,)

    Examples
    --------
    >>> together(np.array([1.0, -5.0, 30.0, 3.0, 1.0, -1.0]), np.arange(6.0))
    Together(n=6, fused_percent=50.0, unordered_percent=83.3, longest=3, longest_s=2.0)
    """
    caught = np.isfinite(apart_ms)
    n = int(np.count_nonzero(caught))
    if n < FEWEST_BOTH:
        return Missing("together", "few-with-click", n, FEWEST_BOTH)
    near = np.abs(np.where(caught, apart_ms, np.inf)) <= ORDERED_MS
    edges = np.flatnonzero(np.diff(np.concatenate([[0], near, [0]])))
    starts, ends = edges[::2], edges[1::2]
    length = ends - starts
    best = int(np.argmax(length)) if length.size else -1
    return Together(
        n=n,
        fused_percent=round(100 * float(np.mean(np.abs(apart_ms[caught]) <= FUSED_MS)), 1),
        unordered_percent=round(100 * float(np.mean(near[caught])), 1),
        longest=int(length[best]) if length.size else 0,
        longest_s=round(float(click_s[ends[best] - 1] - click_s[starts[best]]), 3) if length.size else 0.0,
    )
