"""How much of a heard error the next interval takes back: does the player follow, or hold."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import CubicSpline

from giusto.arrays import FloatArray
from giusto.chain import Chain, Sizes
from giusto.silence import Range
from giusto.sizes import Prior, excerpt, find_mode, share_of
from giusto.smoother import Solution

FEWEST = 12  # ours: heard steps; with fewer the estimate is the prior's
VAGUEST = 1.2  # ours: posterior SD of the log odds; the weak prior's is 1.5
WIDER = 1.06  # ours: what Laplace's method leaves out, by ./giusto bench
ENOUGH = 500  # ours: moments that the share is read from; more add little to it
ODDS = np.linspace(-3.5, 3.5, 9)  # shares from .03 to .97
FINE = np.linspace(-5.0, 5.0, 401)


@dataclass(frozen=True, slots=True)
class Correction:
    """The share of a heard error that a click takes back: near 0 holds, near 1 follows."""

    alpha: float
    ci95: Range
    n: int


def correction(take: Chain, prior: Prior, near: FloatArray, heard_steps: int) -> Correction | str:
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
    Correction or str

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
    if heard_steps < FEWEST:
        return f"{heard_steps} steps with the click were caught; how you correct needs {FEWEST}"
    density = _density(excerpt(take, most=ENOUGH), prior, near)
    mean = float(density @ FINE)
    if float(density @ (FINE - mean) ** 2) > VAGUEST**2:
        return "the notes with the click do not say how you correct"
    low, middle, high = np.interp((0.025, 0.5, 0.975), np.cumsum(density), FINE)
    low, high = (middle + WIDER * (end - middle) for end in (low, high))
    return Correction(round(share_of(middle), 3), (round(share_of(low), 3), round(share_of(high), 3)), heard_steps)


def _density(take: Chain, prior: Prior, near: FloatArray) -> FloatArray:
    """Return the posterior of the log odds on the fine grid, summing to 1."""
    low, high = prior.centre - 5 * prior.spread, prior.centre + 5 * prior.spread
    log_density = np.empty(ODDS.size)
    for start, order in ((int(np.argmin(np.abs(ODDS - near[2]))), 1), (int(np.argmin(np.abs(ODDS - near[2]))), -1)):
        free = near[:2]
        for k in range(start, ODDS.size if order > 0 else -1, order):

            def cost(two: FloatArray, odds: float = float(ODDS[k])) -> float:
                away = (np.append(two, odds) - prior.centre) / prior.spread
                sizes = Sizes(clock=float(np.exp(two[0])), hand_ms=float(np.exp(two[1])), alpha=share_of(odds))
                return 0.5 * float(away @ away) - Solution(take, sizes).log_likelihood

            free, deviations = find_mode(cost, free, low[:2], high[:2])
            log_density[k] = -cost(free) + np.log(abs(np.linalg.det(deviations)))
    fine = CubicSpline(ODDS, log_density, bc_type="natural")(FINE)
    density = np.exp(fine - fine.max())
    shares: FloatArray = density / density.sum()
    return shares
