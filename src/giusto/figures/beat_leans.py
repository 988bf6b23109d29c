"""Which beats of the cycle lean again and again, over a take's cycles and over takes.

A lean at a place is what the clock gains from that beat to the next, less what it gains on average:
a player who hurries into the third beat of every cycle has a place, one who rushes throughout has a
tempo.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import ndtri, stdtrit

from giusto.arrays import FloatArray, IntArray
from giusto.missing import Missing
from giusto.pooling import pool
from giusto.ranges import Z95, Range, rounded

FEWEST_CYCLES = 4  # ours
SPREAD_MS = 4.0  # ours, weak: how far one place differs from take to take
DOUBT = 0.05


@dataclass(frozen=True, slots=True)
class BeatLean:
    """One beat of the cycle, as ``reading/1`` writes it; late (losing time) is positive.

    Attributes
    ----------
    beat : int
        From 1: the stretch from this beat to the next.
    n : int
        Cycles in which both beats were caught.
    gain_ms : float
        What that stretch gains over the average one.
    ci95_ms : (float, float)
        Widened for the number of places looked at.
    leans : bool
        Whether the range leaves 0 out.
    """

    beat: int
    n: int
    gain_ms: float
    ci95_ms: Range
    leans: bool


@dataclass(frozen=True, slots=True)
class BeatLeanOverTakes:
    """One beat over several takes."""

    beat: int
    takes: int
    gain_ms: float
    ci95_ms: Range
    leans: bool


def beat_leans(beat: IntArray, cycle: IntArray, error_ms: FloatArray, *, beats: int) -> list[BeatLean] | Missing:
    """Return the lean of each beat of the cycle over a take, or why there is none.

    Parameters
    ----------
    beat, cycle : array of int, shape (n,)
        Of each caught note that stands on a beat, in order; beats from 0.
    error_ms : array of float, shape (n,)
    beats : int
        In a cycle.

    Notes
    -----
    Each cycle's gains are taken about that cycle's own mean, then averaged; the range is Student's,
    its level shared out among the beats (Bonferroni), so that 95 % is the chance that none of them is
    wrong by luck.
    """
    if beats < 2:
        return Missing("places", "one-beat")
    gains = np.full((int(cycle.max(initial=0)) - int(cycle.min(initial=0)) + 2, beats), np.nan)
    count = (cycle - cycle.min(initial=0)) * beats + beat
    following = np.flatnonzero(np.diff(count) == 1)
    gains.flat[count[following]] = np.diff(error_ms)[following]
    whole = gains[np.all(np.isfinite(gains), axis=1)]
    if whole.shape[0] < FEWEST_CYCLES:
        return Missing("places", "few-cycles", whole.shape[0], FEWEST_CYCLES)
    about = whole - whole.mean(axis=1, keepdims=True)
    n = about.shape[0]
    mean, error = about.mean(axis=0), about.std(axis=0, ddof=1) / np.sqrt(n)
    half = float(stdtrit(n - 1, 1 - DOUBT / (2 * beats))) * np.maximum(error, 1e-6)
    return [
        BeatLean(k + 1, n, round(float(m), 3), rounded((m - h, m + h)), bool(abs(m) > h))
        for k, (m, h) in enumerate(zip(mean, half, strict=True))
    ]


def beat_leans_over_takes(gains_ms: ArrayLike, ci95_ms: ArrayLike) -> list[BeatLeanOverTakes]:
    """Return the lean of each beat over takes of the same drill.

    Parameters
    ----------
    gains_ms : array_like, shape (takes, beats)
        As ``BeatLean.gain_ms``.
    ci95_ms : array_like, shape (takes, beats)
        Half of each range of ``BeatLean.ci95_ms``, which is already widened for the number of beats.

    Notes
    -----
    Random effects (``pooling``): a place leans only where it does so again and again, beyond what one
    take's cycles show. Ranges stay widened for the number of beats.
    """
    gains, half = np.asarray(gains_ms, dtype=np.float64), np.asarray(ci95_ms, dtype=np.float64)
    takes, beats = gains.shape
    wider = float(ndtri(1 - DOUBT / (2 * beats)))
    found = []
    for k in range(beats):
        pooled = pool(gains[:, k], np.maximum(half[:, k] / wider, 1e-3) ** 2, scale=SPREAD_MS)
        low, high = (pooled.mean + (end - pooled.mean) * wider / Z95 for end in pooled.ci95)
        found.append(BeatLeanOverTakes(k + 1, takes, round(pooled.mean, 3), rounded((low, high)), low > 0 or high < 0))
    return found
