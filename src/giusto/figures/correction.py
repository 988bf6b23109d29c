"""How much of a heard error the next interval takes back: does the player follow, or hold."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, log

import numpy as np

from giusto.arrays import FloatArray
from giusto.missing import Missing
from giusto.ranges import Range
from giusto.splines import natural_spline
from giusto.timekeeper.excerpt import excerpt
from giusto.timekeeper.mode import find_modes
from giusto.timekeeper.prior import Prior, share_of
from giusto.timekeeper.sizes import sizes_of
from giusto.timekeeper.solution import likelihoods_of
from giusto.timekeeper.take import Chain

FEWEST_HEARD_STEPS = 12  # ours: heard steps; with fewer the estimate is the prior's
VAGUEST = 1.2  # ours: posterior SD of the log odds; the weak prior's is 1.5
WIDER = 1.06  # ours: what Laplace's method leaves out, by ./giusto bench
ENOUGH = 500  # ours: moments that the share is read from; more add little to it
HOME_SHARE = 0.1  # ours: of an error; so little left counts as home
ODDS = np.linspace(-3.5, 3.5, 7)  # shares from .03 to .97
FINE = np.linspace(-5.0, 5.0, 401)


@dataclass(frozen=True, slots=True)
class Correction:
    """The share of a heard error that a click takes back: near 0 holds, near 1 follows."""

    alpha: float
    ci95: Range
    n: int


def correction(take: Chain, prior: Prior, near: FloatArray, heard_steps: int) -> Correction | Missing:
    """Return the correction, or why the take can't give it.

    Parameters
    ----------
    take : Chain
    prior : Prior
    near : array of float, shape (3,)
        The likeliest sizes, to start from.
    heard_steps : int
        Steps with a heard click from one caught note to the next.

    Returns
    -------
    Correction or Missing

    Notes
    -----
    Asynchronies with linear correction are an ARMA(1,1) process, whose likelihood the smoother's is;
    1 less the lag-one correlation would overestimate alpha, since the hand's noise lowers it. A strong
    correction of a loose clock and a weak one of a loose hand look much alike, so the posterior of the
    share is bent: it is taken on a grid of log odds, clock and hand integrated over at each (Laplace's
    method), and its quantiles are the range. The figure is its median.

    References
    ----------
    Vorberg & Schulze 2002, J Math Psych 46:56 (from memory).
    """
    if heard_steps < FEWEST_HEARD_STEPS:
        return Missing("correction", "few-heard-steps", heard_steps, FEWEST_HEARD_STEPS)
    density = _density(excerpt(take, most=ENOUGH), prior, near)
    mean = float(density @ FINE)
    if float(density @ (FINE - mean) ** 2) > VAGUEST**2:
        return Missing("correction", "vague-correction")
    low, middle, high = np.interp((0.025, 0.5, 0.975), np.cumsum(density), FINE)
    low, high = (middle + WIDER * (end - middle) for end in (low, high))
    return Correction(round(share_of(middle), 3), (round(share_of(low), 3), round(share_of(high), 3)), heard_steps)


def _density(take: Chain, prior: Prior, near: FloatArray) -> FloatArray:
    """Return the posterior of the log odds on the fine grid, summing to 1."""
    likelihoods = likelihoods_of(take)

    def costs(two: FloatArray) -> FloatArray:
        odds = np.broadcast_to(ODDS[:, None, None], (*two.shape[:2], 1))
        free = np.concatenate([two, odds], axis=2)
        found: FloatArray = likelihoods([sizes_of(one) for one in free.reshape(-1, 3)]).reshape(two.shape[:2])
        return prior.costs(free) - found

    modes = find_modes(costs, np.tile(near[:2], (ODDS.size, 1)), prior.low[:2], prior.high[:2])
    log_density = [-mode.cost + np.log(abs(np.linalg.det(mode.axes))) for mode in modes]
    fine = natural_spline(ODDS, np.array(log_density), FINE)
    density = np.exp(fine - fine.max())
    shares: FloatArray = density / density.sum()
    return shares


def home_clicks(alpha: float) -> int:
    """Return how many clicks leave a tenth of an error.

    Examples
    --------
    >>> home_clicks(0.4), home_clicks(0.9)
    (5, 1)
    """
    return max(ceil(log(HOME_SHARE) / log(1 - min(max(alpha, 0.01), 0.99)) - 1e-9), 1)
