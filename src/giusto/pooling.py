"""Several estimates of one thing that differ by chance and in truth: random effects.

Used for the tempo bias that a take's silences share, and for the habit that takes share.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import ndtr, ndtri

from giusto.arrays import FloatArray

SPREADS, WIDEST = 80, 5.0  # ours: spreads tried, up to this many scales
COVERED = 0.95
FARTHEST, NEAR = 12.0, 1e-9  # standard deviations: off the middle, beyond which no end lies; to which it is found
NEWTONS, HALVINGS = 9, 36  # steps at most: ours; and of 24 standard deviations to a part in a thousand million


@dataclass(frozen=True, slots=True)
class Pooled:
    """What the estimates share.

    Attributes
    ----------
    mean : float
    ci95 : (float, float)
    spread : float
        Posterior mean of the standard deviation of the true values about their mean.
    """

    mean: float
    ci95: tuple[float, float]
    spread: float


def pool(
    estimates: ArrayLike, variances: ArrayLike, *, scale: float, shared: float = 0.0, alike: float = 0.0
) -> Pooled:
    """Pool estimates that differ by their own errors and by a spread that is not known.

    Parameters
    ----------
    estimates, variances : array_like, shape (n,)
        At least one; variances above 0.
    scale : float
        Scale of the half-normal prior on the spread, in the estimates' unit.
    shared : float
        Standard deviation of an error that all estimates have in common, so that none of them shows it.
    alike : float
        More of such an error, as a share of the spread between them.

    Returns
    -------
    Pooled

    Notes
    -----
    ``y[i] = μ + N(0, τ²) + N(0, v[i])``, μ flat, τ half-normal. Given τ, μ is normal with precision
    Σ 1/(τ² + v[i]); τ is integrated on a grid, so the range of μ is that of a mixture. One estimate
    alone gets the prior's spread on top of its own error.

    References
    ----------
    Higgins, Thompson & Spiegelhalter 2009, J R Stat Soc A 172:137, random effects by full Bayes
    (from memory).

    Examples
    --------
    >>> found = pool([-1.0, -0.6, -0.8, -1.2], [0.04, 0.05, 0.04, 0.06], scale=0.5)
    >>> round(found.mean, 2), [round(end, 1) for end in found.ci95]
    (-0.89, [-1.3, -0.5])
    """
    y, v = np.asarray(estimates, dtype=np.float64), np.asarray(variances, dtype=np.float64)
    spread = (np.arange(SPREADS) + 0.5) * (WIDEST * scale / SPREADS)
    total = spread[:, None] ** 2 + v
    precision = np.sum(1 / total, axis=1)
    mean = np.sum(y / total, axis=1) / precision
    fit = -0.5 * np.sum(np.log(total) + (y - mean[:, None]) ** 2 / total, axis=1) - 0.5 * np.log(precision)
    log_weight = fit - 0.5 * (spread / scale) ** 2
    weight = np.exp(log_weight - log_weight.max())
    weight /= weight.sum()
    centre = float(weight @ mean)
    sd = np.sqrt(1 / precision + shared**2 + (alike * spread) ** 2)
    return Pooled(centre, ends_of_mixture(mean, sd, weight), float(weight @ spread))


def pool_each(
    estimates: FloatArray, variances: FloatArray, *, scale: float
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Pool many things at once, each as ``pool`` does.

    Parameters
    ----------
    estimates, variances : array, shape (things, n)
        NaN where a thing has no such estimate; at least one in each row.
    scale : float

    Returns
    -------
    mean, low, high, spread : array, shape (things,)
        Posterior means, the ends of the 95 % ranges, and how far the true values lie apart.
    """
    is_there = np.isfinite(estimates)
    middle = np.nanmean(estimates, axis=1)
    y, v = np.where(is_there, estimates - middle[:, None], 0.0), np.where(is_there, variances, np.inf)
    spread = (np.arange(SPREADS) + 0.5) * (WIDEST * scale / SPREADS)
    share = 1 / (spread[:, None, None] ** 2 + v)
    precision = share.sum(axis=2)
    mean = np.einsum("stn,tn->st", share, y) / precision
    misfit = np.einsum("stn,tn->st", share, y**2) - precision * mean**2
    doubt = np.log(share, out=np.zeros_like(share), where=is_there).sum(axis=2) - np.log(precision)
    log_weight = 0.5 * (doubt - misfit - (spread[:, None] / scale) ** 2)
    weight = np.exp(log_weight - log_weight.max(axis=0))
    weight /= weight.sum(axis=0)
    sd = np.sqrt(1 / precision)
    low, high = (middle + _ends(mean, sd, weight, part) for part in ((1 - COVERED) / 2, (1 + COVERED) / 2))
    centre: FloatArray = middle + (weight * mean).sum(axis=0)
    apart: FloatArray = (weight * spread[:, None]).sum(axis=0)
    return centre, low, high, apart


def _ends(mean: FloatArray, sd: FloatArray, weight: FloatArray, part: float) -> FloatArray:
    """Return where mixtures of normals reach a part of their whole: by Newton's steps, then by halving what is left.

    What is reached is told in standard deviations of one normal, in which a mixture is nearly straight.
    """
    low, high = (mean - FARTHEST * sd).min(axis=0), (mean + FARTHEST * sd).max(axis=0)
    goal, near = ndtri(part), NEAR * sd.min(axis=0)
    found: FloatArray = (weight * (mean + goal * sd)).sum(axis=0)
    for number in range(NEWTONS + HALVINGS):
        off = (found - mean) / sd
        reached = (weight * ndtr(off)).sum(axis=0)
        low, high = np.where(reached < part, found, low), np.where(reached < part, high, found)
        at, rise = ndtri(reached), (weight * np.exp(-0.5 * off**2) / sd).sum(axis=0)
        with np.errstate(all="ignore"):  # all of a mixture, or nothing of it, lies below
            step = (at - goal) * np.exp(-0.5 * at**2) / rise
            is_near = np.abs(step) <= near
            is_within = (found - step > low) & (found - step < high) & (number < NEWTONS)
        found = np.where(is_near | is_within, found - step, (low + high) / 2)
        if np.all(is_near):
            break
    return found


def ends_of_mixture(mean: FloatArray, sd: FloatArray, weight: FloatArray) -> tuple[float, float]:
    """Return the central 95 % range of a mixture of normals, weights summing to 1."""
    columns = mean[:, None], sd[:, None], weight[:, None]
    low, high = (float(_ends(*columns, part)[0]) for part in ((1 - COVERED) / 2, (1 + COVERED) / 2))
    return low, high
