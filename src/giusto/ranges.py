"""Ranges of figures: 95 %, and how they are made, joined and compared."""

from __future__ import annotations

from math import exp, sqrt
from typing import TypeAlias

import numpy as np
from scipy.special import ndtri, stdtrit

from giusto.arrays import FloatArray

COVERED = 0.95  # by the contract of reading/1: every range
Z95 = float(ndtri((1 + COVERED) / 2))  # 1.96, the quantile of the normal distribution

Range: TypeAlias = tuple[float, float]


def interval(mean: float, variance: float, *, quantile: float = Z95) -> Range:
    """Return the 95 % range of a figure, rounded to a thousandth; normal unless a quantile is given.

    Examples
    --------
    >>> interval(10.0, 4.0)
    (6.08, 13.92)
    """
    half = quantile * sqrt(max(variance, 0.0))
    return rounded((mean - half, mean + half))


def rounded(ends: Range) -> Range:
    """Return a range to a thousandth."""
    return round(float(ends[0]), 3), round(float(ends[1]), 3)


def sd_of(ends: Range) -> float:
    """Return the standard deviation that a normal 95 % range stands for.

    Examples
    --------
    >>> round(sd_of((6.08, 13.92)), 3)
    2.0
    """
    return (ends[1] - ends[0]) / (2 * Z95)


def size_range(size: float, log_sd: float, *, wider: float = 1.0) -> Range:
    """Return the range of a size above 0 whose logarithm has a standard deviation."""
    half = wider * Z95 * log_sd
    return rounded((size * exp(-half), size * exp(half)))


def student(n: int) -> float:
    """Return Student's 95 % quantile for the mean of ``n`` values; two at least are taken."""
    return float(stdtrit(max(n - 1, 1), (1 + COVERED) / 2))


def sample_sd(values: FloatArray) -> float | None:
    """Return the standard deviation with n − 1, or None for fewer than two values."""
    return round(float(np.std(values, ddof=1)), 3) if values.size > 1 else None
