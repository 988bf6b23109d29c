"""A player's habit over many takes: what is sure of it, and what to expect of the next silence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from giusto.arrays import FloatArray
from giusto.figures.tendency import SPREAD_OF_TAKES_PERCENT, SPREAD_PERCENT, TAKES_WIDER, Verdict, verdict_of
from giusto.missing import Missing
from giusto.pooling import pool, pool_each
from giusto.ranges import Z95, Range, rounded, sd_of, student
from giusto.timekeeper.prior import FEWEST_TAKES


@dataclass(frozen=True, slots=True)
class Habit:
    """The bias that a player's takes share, at one tempo and length of silence; faster is positive.

    Attributes
    ----------
    tempo_percent, ci95_percent
        The habit and how sure it is: it narrows with takes.
    expected_percent : (float, float)
        Where the next silence will lie, 95 times in 100: it does not narrow below the player's own
        wander.
    differ_percent : float
        How far the biases of takes lie apart in truth.
    takes, silences : int
    verdict : str
    """

    tempo_percent: float
    ci95_percent: Range
    expected_percent: Range
    differ_percent: float
    takes: int
    silences: int
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Usual:
    """The range that a figure of single takes or silences usually falls in.

    Attributes
    ----------
    middle : float
        Median.
    expected : (float, float)
        Middle 95 %, by mean and standard deviation with Student's quantile for one more.
    n : int
    """

    middle: float
    expected: Range
    n: int


def habit(takes: Sequence[tuple[FloatArray, FloatArray]]) -> Habit | Missing:
    """Return the bias that takes share, or why it can't be given.

    Parameters
    ----------
    takes : sequence of (array, array)
        For each take: tempo deviation of its silences in percent, and their variances.

    Notes
    -----
    Random effects on two levels: the silences of a take are pooled first (``pooling``), then the
    takes. What is expected of a next silence adds both spreads and the silences' own variance.
    """
    takes = [take for take in takes if take[0].size]
    if len(takes) < FEWEST_TAKES:
        return Missing("habit", "few-takes", len(takes), FEWEST_TAKES)
    percent, variance = (_rows([take[part] for take in takes]) for part in (0, 1))
    means, lows, highs, spreads = pool_each(percent, variance, scale=SPREAD_PERCENT)
    among = pool(means, ((highs - lows) / (2 * Z95)) ** 2, scale=SPREAD_OF_TAKES_PERCENT)
    own = np.mean(spreads**2) + np.nanmedian(variance)
    low, high = (among.mean + TAKES_WIDER * (end - among.mean) for end in among.ci95)
    ci95 = (low, high)
    half = Z95 * sqrt(sd_of(among.ci95) ** 2 + among.spread**2 + float(own))
    return Habit(
        tempo_percent=round(among.mean, 3),
        ci95_percent=rounded(ci95),
        expected_percent=rounded((among.mean - half, among.mean + half)),
        differ_percent=round(among.spread, 3),
        takes=len(takes),
        silences=int(np.isfinite(percent).sum()),
        verdict=verdict_of(ci95),
    )


def _rows(some: Sequence[FloatArray]) -> FloatArray:
    """Return arrays as rows of one, NaN where one is shorter."""
    found = np.full((len(some), max(one.size for one in some)), np.nan)
    for row, one in zip(found, some, strict=True):
        row[: one.size] = one
    return found


def usual(values: Sequence[float]) -> Usual | None:
    """Return where a figure usually falls, or None for fewer than three values.

    Examples
    --------
    >>> usual([10.0, 12.0, 11.0, 13.0]).middle
    11.5
    """
    if len(values) < FEWEST_TAKES:
        return None
    array = np.asarray(values, dtype=np.float64)
    n = array.size
    half = student(n) * float(array.std(ddof=1)) * sqrt(1 + 1 / n)
    mean = float(array.mean())
    return Usual(round(float(np.median(array)), 3), rounded((mean - half, mean + half)), n)
