"""How large a player's noise is: the likeliest sizes of a take, and points that stand for all likely ones."""

from __future__ import annotations

from collections.abc import Callable
from itertools import combinations, product
from math import exp, log

import numpy as np

from giusto.arrays import FloatArray
from giusto.chain import Chain, Sizes
from giusto.smoother import Solution

EXCERPT, EXCERPTS = 1500, 3  # ours: a longer take is sized from three stretches of 1,500 moments
NEWTON_STEPS, NEWTON_CLOSE = 12, 0.02  # ours: a fiftieth of a log unit, far inside the posterior
FLATTEST = 0.5  # ours: curvature below which an axis is taken for this flat; the priors' is 1 to 3
MIN_NOTES = 4  # ours: fewer caught notes say nothing of three sizes

# Weak priors on the sizes: median, and standard deviation of the logarithm (log odds for alpha).
# From memory: clock 1–4 % and hand 5–10 ms (Wing & Kristofferson 1973; Semjen, Schulze & Vorberg
# 2000, Psychol Res 63:137), alpha .2–.8 (Vorberg & Schulze 2002). The spreads are ours.
CLOCK_PRIOR = (0.018, 0.7)
HAND_PRIOR_MS = (8.0, 0.6)
ALPHA_PRIOR = (0.4, 1.0)


def likely_sizes(take: Chain) -> tuple[Sizes, list[Solution], FloatArray]:
    """Return the likeliest sizes, and weighted solutions that stand for all likely ones."""
    centre = np.array([log(CLOCK_PRIOR[0]), log(HAND_PRIOR_MS[0]), log(ALPHA_PRIOR[0] / (1 - ALPHA_PRIOR[0]))])
    spread = np.array([CLOCK_PRIOR[1], HAND_PRIOR_MS[1], ALPHA_PRIOR[1]])

    excerpts = _excerpts(take)

    def cost(free: FloatArray) -> float:
        away = (free - centre) / spread
        sizes = _sizes_of(free)
        return 0.5 * float(away @ away) - sum(Solution(part, sizes).log_likelihood for part in excerpts)

    low, high = centre - 5 * spread, centre + 5 * spread
    trials = [centre + spread * [clock, hand, 0.0] for clock, hand in product((-1.0, 0.0, 1.0), repeat=2)]
    mode, deviations = _mode(cost, min(trials, key=cost), low, high)
    corners = [np.clip(mode + deviations @ z, low, high) for z in product((-1.0, 1.0), repeat=3)]
    costs = np.array([cost(corner) for corner in corners])
    weights = np.exp(np.maximum(costs.min() - costs, -4.0))
    return _sizes_of(mode), [Solution(take, _sizes_of(c)) for c in corners], weights / weights.sum()


def _mode(
    cost: Callable[[FloatArray], float], start: FloatArray, low: FloatArray, high: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return where ``cost`` is least, by Newton's method, and its principal axes, one SD long.

    Newton's own steps are kept short, and halved while they lead uphill; three unknowns and a smooth
    cost need no more.
    """
    mode = start
    for _ in range(NEWTON_STEPS):
        here, gradient, hessian = _slopes(cost, mode)
        values, vectors = np.linalg.eigh(hessian)
        deviations: FloatArray = vectors / np.sqrt(np.maximum(np.abs(values), FLATTEST))
        step = np.clip(-deviations @ deviations.T @ gradient, -1.0, 1.0)
        ahead = np.clip(mode + step, low, high)
        while np.abs(ahead - mode).max() > NEWTON_CLOSE and cost(ahead) > here:
            ahead = (ahead + mode) / 2
        near = np.abs(ahead - mode).max() <= NEWTON_CLOSE
        mode = ahead
        if near:
            break
    return mode, deviations


def _excerpts(take: Chain) -> list[Chain]:
    """Return the stretches of a take that its sizes are estimated from, cut between silences."""
    n = take.error_ms.size
    if n <= EXCERPT * EXCERPTS:
        return [take]
    cuts = take.ends if take.ends.size > 1 else np.arange(0, n, EXCERPT // 4)
    parts = []
    for wanted in np.linspace(0, n - EXCERPT, EXCERPTS):
        first = cuts[min(np.searchsorted(cuts, wanted), cuts.size - 2)]
        last = cuts[min(np.searchsorted(cuts, first + EXCERPT), cuts.size - 1)]
        part = take.between(int(first), int(last))
        if np.count_nonzero(part.caught) >= MIN_NOTES:
            parts.append(part)
    return parts or [take]


def _slopes(cost: Callable[[FloatArray], float], at: FloatArray) -> tuple[float, FloatArray, FloatArray]:
    """Return ``cost``, its gradient and its Hessian, by central differences."""
    step, n = 0.1, at.size
    unit = np.eye(n) * step
    middle = cost(at)
    ahead, behind = ([cost(at + sign * e) for e in unit] for sign in (1, -1))
    gradient = (np.array(ahead) - behind) / (2 * step)
    hessian = np.diag((np.array(ahead) - 2 * middle + behind) / step**2)
    for i, j in combinations(range(n), 2):
        both = cost(at + unit[i] + unit[j]) - ahead[i] - ahead[j] + middle
        hessian[i, j] = hessian[j, i] = both / step**2
    return middle, gradient, hessian


def _sizes_of(free: FloatArray) -> Sizes:
    return Sizes(clock=exp(free[0]), hand_ms=exp(free[1]), alpha=1 / (1 + exp(-free[2])))
