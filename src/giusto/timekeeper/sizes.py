"""How large a player's noise is: the likeliest sizes of a take, and points that stand for all likely ones."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product
from math import exp

import numpy as np

from giusto.arrays import FloatArray
from giusto.timekeeper.excerpt import excerpt
from giusto.timekeeper.mode import Mode, find_mode
from giusto.timekeeper.prior import WEAK, Prior, Seen, share_of
from giusto.timekeeper.solution import Likelihoods, Solution, likelihoods_of, solve
from giusto.timekeeper.take import Chain, Sizes

GLANCE = 600  # ours: moments that choose where the search for the sizes starts
LEAST_LOG_WEIGHT = -4.0  # ours: a corner of the mode's box counts for at least e⁻⁴ of the likeliest


@dataclass(frozen=True, slots=True)
class Likely:
    """The sizes of a take: the likeliest, how sure, and weighted solutions that stand for all likely ones.

    Attributes
    ----------
    mode : Sizes
    solutions : list of Solution
    weights : array of float, shape (solutions,)
        Summing to 1.
    free, free_sd : array of float, shape (3,)
        Log of clock and of hand, log odds of alpha, and their posterior standard deviations: by this take and the weak
        prior, whatever was known of the player beforehand.
    found : bool
        Whether the search for the likeliest ended there.
    """

    mode: Sizes
    solutions: list[Solution]
    weights: FloatArray
    free: FloatArray
    free_sd: FloatArray
    found: bool

    @property
    def seen(self) -> Seen:
        """What the take showed, for the player's history."""
        (a, b, c), (d, e, f) = self.free.tolist(), self.free_sd.tolist()
        return Seen((a, b, c), (d, e, f))


def likely_sizes(take: Chain, prior: Prior) -> Likely:
    """Return the likely sizes of a take, under what is known beforehand.

    Notes
    -----
    The posterior of the three sizes is taken as normal about its mode; the eight corners of the box one
    standard deviation wide along its axes, weighted by their own posterior, stand for all of it.
    """
    part, glance = (likelihoods_of(some) for some in (excerpt(take), excerpt(take, most=GLANCE)))

    def costs(free: FloatArray, of: Likelihoods = part) -> FloatArray:
        return prior.costs(free) - of([sizes_of(one) for one in free])

    away = np.array([(clock, hand, 0.0) for clock, hand in product((-1.0, 0.0, 1.0), repeat=2)])
    trials = prior.centre + prior.spread * away
    start = trials[int(np.argmin(costs(trials, glance)))]
    mode = find_mode(costs, start, prior.low, prior.high)
    box = np.array(list(product((-1.0, 1.0), repeat=3)))
    corners = np.clip(mode.at + box @ mode.axes.T, prior.low, prior.high)
    at_corners = costs(corners)
    free, free_sd = _by_itself(mode, prior)
    weights = np.exp(np.maximum(at_corners.min() - at_corners, LEAST_LOG_WEIGHT))
    return Likely(
        mode=sizes_of(mode.at),
        solutions=[solve(take, sizes_of(corner)) for corner in corners],
        weights=weights / weights.sum(),
        free=free,
        free_sd=free_sd,
        found=mode.found,
    )


def _by_itself(mode: Mode, prior: Prior) -> tuple[FloatArray, FloatArray]:
    """Return what a take says of the sizes with the weak prior in place of another: both as normal about the mode."""
    values, vectors = np.linalg.eigh(np.linalg.inv(mode.axes @ mode.axes.T) - np.diag(prior.spread**-2))
    of_take = (vectors * np.maximum(values, 0.0)) @ vectors.T
    pull = of_take @ mode.at + (mode.at - prior.centre) / prior.spread**2  # at the mode, take and prior are in balance
    precision = of_take + np.diag(WEAK.spread**-2)
    free = np.linalg.solve(precision, pull + WEAK.centre / WEAK.spread**2)
    return free, np.sqrt(np.diag(np.linalg.inv(precision)))


def sizes_of(free: FloatArray) -> Sizes:
    """Return the sizes that three unknowns stand for: log clock, log hand, log odds of alpha."""
    return Sizes(clock=exp(free[0]), hand_ms=exp(free[1]), alpha=share_of(free[2]))
