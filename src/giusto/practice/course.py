"""The course of a figure over takes: from the first to the latest, and whether by more than chance."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from giusto.arrays import FloatArray
from giusto.missing import Missing
from giusto.pooling import SPREADS, WIDEST, range_of_mixture
from giusto.ranges import Range, rounded

FEWEST_TAKES = 4  # ours: a line through three says little


@dataclass(frozen=True, slots=True)
class Course:
    """How a figure went over takes.

    Attributes
    ----------
    first, latest : float
        Where the line through the takes begins and ends.
    change : float
        Latest less first.
    ci95 : (float, float)
        Of the change.
    more_than_chance : bool
        Whether that range leaves no change out.
    takes : int
    """

    first: float
    latest: float
    change: float
    ci95: Range
    more_than_chance: bool
    takes: int


def course(values: ArrayLike, variances: ArrayLike, at: ArrayLike, *, scale: float) -> Course | Missing:
    """Return how a figure went over takes.

    Parameters
    ----------
    values, variances : array_like, shape (takes,)
        Estimates, and how sure each is; variances above 0.
    at : array_like, shape (takes,)
        When: days, or any number that grows with time.
    scale : float
        Scale of the half-normal prior on how far takes differ in truth beside the line, in the values' unit.

    Returns
    -------
    Course or Missing
        ``few-takes`` for fewer than four, or all at one time.

    Notes
    -----
    ``y[i] = a + b · at[i] + N(0, τ²) + N(0, v[i])``, a and b flat, τ half-normal and integrated over on a grid,
    as ``giusto.pooling`` does without the slope.

    References
    ----------
    Thompson & Higgins 2002, Stat Med 21:1559, random-effects regression (from memory).
    """
    y, v = np.asarray(values, dtype=np.float64), np.asarray(variances, dtype=np.float64)
    when = np.asarray(at, dtype=np.float64)
    if y.size < FEWEST_TAKES or np.ptp(when) == 0:
        return Missing("course", "few-takes", y.size, FEWEST_TAKES)
    x = (when - when.min()) / np.ptp(when)
    design = np.column_stack([1 - x, x])  # so that the two unknowns are where the line begins and where it ends
    spread = (np.arange(SPREADS) + 0.5) * (WIDEST * scale / SPREADS)
    ends, cov, evidence = _lines(design, y, v + spread[:, None] ** 2)
    log_weight = evidence - 0.5 * (spread / scale) ** 2
    weight = np.exp(log_weight - log_weight.max())
    weight /= weight.sum()
    sds = np.sqrt(cov[:, 0, 0] + cov[:, 1, 1] - 2 * cov[:, 0, 1])
    first, latest = (weight @ ends).tolist()
    low, high = range_of_mixture(ends[:, 1] - ends[:, 0], sds, weight)
    return Course(
        round(first, 4), round(latest, 4), round(latest - first, 4), rounded((low, high)), low > 0 or high < 0, y.size
    )


def _lines(design: FloatArray, y: FloatArray, variance: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return for each spread where the line begins and ends, their covariance, and the spread's log likelihood."""
    weighed = design / variance[:, :, None]
    cov: FloatArray = np.linalg.inv(np.einsum("na,snb->sab", design, weighed)).astype(np.float64)
    mean: FloatArray = np.einsum("sab,snb,n->sa", cov, weighed, y)
    left = np.sum((y - mean @ design.T) ** 2 / variance, axis=1)
    log_cov: FloatArray = np.linalg.slogdet(cov)[1].astype(np.float64)
    return mean, cov, -0.5 * (np.sum(np.log(variance), axis=1) + left) + 0.5 * log_cov
