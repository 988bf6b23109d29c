"""The tempo bias that a take's silences share: rushing, dragging, steady, or not to be told."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import Literal

import numpy as np

from giusto.arrays import FloatArray
from giusto.missing import Missing
from giusto.pooling import pool
from giusto.ranges import Z95, Range, rounded

# How far one player's silences differ in truth, as a share of tempo in percent. Ours, weak: single
# runs of tens of taps drift by 0 to 3 % (Collier & Ogden 2004; Madison 2001; both from memory).
SPREAD_PERCENT = 0.5
# What a slow (1/f) wander of the clock adds to all silences of one take alike, in percent. Ours: long
# series wander (Gilden, Thornton & Mallon 1995, from memory), and no single take can show how much.
WANDER_PERCENT = 0.08
# How large that is beside what the wander adds between the silences, which a take does show. Ours, by ./giusto
# bench: 1/f noise has as much power in each octave, those slower than the take and those within it.
WANDER_ALIKE = 0.75
SLOWEST = 0.1  # ours: of the tempo asked; what is slower stands for this
STEADY_PERCENT = 1.0  # by the contract of reading/1

Verdict = Literal["rushing", "dragging", "steady", "unclear"]


@dataclass(frozen=True, slots=True)
class Tendency:
    """The bias that silences share, as ``reading/1`` writes it; faster is positive."""

    tempo_percent: float
    ci95_percent: Range
    silences: int
    verdict: Verdict


def tendency(lean: FloatArray, lean_var: FloatArray) -> Tendency | Missing:
    """Return the bias that a take's readable silences share.

    Parameters
    ----------
    lean, lean_var : array of float, shape (silences,)
        Drift a unit of time that the clock was set to, late positive, and its variance, which holds
        the clock's own noise.

    Returns
    -------
    Tendency or Missing
    """
    if not lean.size:
        return Missing("tendency", "no-silence")
    percent = lean_percent(lean)
    found = pool(
        percent, lean_percent_var(lean, lean_var), scale=SPREAD_PERCENT, shared=WANDER_PERCENT, alike=WANDER_ALIKE
    )
    return Tendency(round(found.mean, 3), rounded(found.ci95), lean.size, verdict_of(found.ci95))


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
