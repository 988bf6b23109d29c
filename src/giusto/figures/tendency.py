"""The tempo bias that a take's silences share: rushing, dragging, steady, or not to be told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from typing import Literal

import numpy as np

from giusto.arrays import FloatArray
from giusto.missing import Missing
from giusto.pooling import pool
from giusto.ranges import Z95, Range, rounded, sd_of

# How far one player's silences differ in truth, as a share of tempo in percent. Ours, weak: single
# runs of tens of taps drift by 0 to 3 % (Collier & Ogden 2004; Madison 2001; both from memory).
SPREAD_PERCENT = 0.5
# What a slow (1/f) wander of the clock adds to all silences of one take alike, in percent. Ours: long
# series wander (Gilden, Thornton & Mallon 1995, from memory), and no single take can show how much.
WANDER_PERCENT = 0.08
# How large that is beside what the wander adds between the silences, which a take does show. Ours, by ./giusto
# bench: 1/f noise has as much power in each octave, those slower than the take and those within it.
WANDER_ALIKE = 0.75
# How far one player's takes lean apart in truth, in percent: the scale of what earlier takes have to tell. Ours, weak.
SPREAD_OF_TAKES_PERCENT = 0.5
TAKES_WIDER = 1.1  # ours: what a dozen takes leave uncertain of that, by ./giusto bench
FEWEST_EARLIER = 10  # ours: earlier takes without which that is not told
SLOWEST = 0.1  # ours: of the tempo asked; what is slower stands for this
STEADY_PERCENT = 1.0  # by the contract of reading/1

Verdict = Literal["rushing", "dragging", "steady", "unclear"]


@dataclass(frozen=True, slots=True)
class Tendency:
    """The bias that silences share, as ``reading/1`` writes it; faster is positive.

    Attributes
    ----------
    tempo_percent, ci95_percent
    silences : int
    verdict : str
    takes_differ_percent : float or None
        How far the player's takes lean apart, where earlier ones told it; None where this take alone speaks.
    """

    tempo_percent: float
    ci95_percent: Range
    silences: int
    verdict: Verdict
    takes_differ_percent: float | None = None


def tendency(
    lean: FloatArray, lean_var: FloatArray, *, takes_differ_percent: float | None = None
) -> Tendency | Missing:
    """Return the bias that a take's readable silences share.

    Parameters
    ----------
    lean, lean_var : array of float, shape (silences,)
        Drift a unit of time that the clock was set to, late positive, and its variance, which holds
        the clock's own noise.
    takes_differ_percent : float or None
        How far the player's takes lean apart in truth (``takes_differ``); None where that isn't known, and
        what a slow wander adds to all silences alike is guessed from how they differ.

    Returns
    -------
    Tendency or Missing
    """
    if not lean.size:
        return Missing("tendency", "no-silence")
    percent = lean_percent(lean)
    shared, alike = (WANDER_PERCENT, WANDER_ALIKE) if takes_differ_percent is None else (takes_differ_percent, 0.0)
    found = pool(percent, lean_percent_var(lean, lean_var), scale=SPREAD_PERCENT, shared=shared, alike=alike)
    told = None if takes_differ_percent is None else round(takes_differ_percent, 4)
    return Tendency(round(found.mean, 3), rounded(found.ci95), lean.size, verdict_of(found.ci95), told)


def takes_differ(takes: Sequence[tuple[FloatArray, FloatArray]]) -> float | None:
    """Return how far a player's takes lean apart in truth, in percent; None for fewer than ten.

    Parameters
    ----------
    takes : sequence of (array, array)
        For each earlier take: tempo deviation of its silences in percent, and their variances.

    Notes
    -----
    Random effects on two levels, as in ``giusto.practice.habit``: the posterior mean of the spread between
    takes, whose prior is half-normal; few takes are drawn towards it (partial pooling).
    """
    some = [take for take in takes if take[0].size]
    if len(some) < FEWEST_EARLIER:
        return None
    within = [pool(percent, variance, scale=SPREAD_PERCENT) for percent, variance in some]
    means, variances = [take.mean for take in within], [sd_of(take.ci95) ** 2 for take in within]
    return TAKES_WIDER * pool(means, variances, scale=SPREAD_OF_TAKES_PERCENT).spread


def lean_percent(lean: FloatArray | float) -> FloatArray:
    """Return leans (drift a unit of time, late positive) as tempo deviation in percent; faster is positive.

    Examples
    --------
    >>> round(float(lean_percent(0.02)), 2)
    -1.96
    """
    percent: FloatArray = 100 * (1 / np.maximum(1 + np.asarray(lean), SLOWEST) - 1)
    return percent


def lean_range(lean: float, variance: float) -> Range:
    """Return the range of a lean, in percent."""
    half = Z95 * sqrt(max(variance, 0.0))
    return rounded((float(lean_percent(lean + half)), float(lean_percent(lean - half))))


def lean_percent_var(lean: FloatArray, variance: FloatArray) -> FloatArray:
    """Return the variance of leans in percent."""
    return (100 / np.maximum(1 + lean, SLOWEST) ** 2) ** 2 * variance


def verdict_of(ci95_percent: Range) -> Verdict:
    """Return what a range of the bias allows to say.

    Examples
    --------
    >>> verdict_of((-1.0, -0.2)), verdict_of((0.1, 2.0)), verdict_of((-0.4, 0.6)), verdict_of((-1.4, 0.3))
    ('dragging', 'rushing', 'steady', 'unclear')
    """
    low, high = ci95_percent
    if high < 0:
        return "dragging"
    if low > 0:
        return "rushing"
    return "steady" if low >= -STEADY_PERCENT and high <= STEADY_PERCENT else "unclear"
