"""How large a player's noise is: the likeliest sizes of a take, and points that stand for all likely ones."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations, product
from math import exp, hypot, log

import numpy as np

from giusto.arrays import FloatArray
from giusto.chain import Chain, Sizes, joined
from giusto.pooling import pool
from giusto.smoother import Solution

EXCERPT, EXCERPTS = 700, 3  # ours: a longer take is sized from three stretches of 700 moments
GLANCE = 600  # ours: moments that choose where the search for the sizes starts
NEWTON_STEPS, NEWTON_CLOSE = 12, 0.1  # ours: a last step of a tenth of a log unit leaves about its square
FLATTEST = 0.5  # ours: curvature below which an axis is taken for this flat; the priors' is 1 to 3
MIN_NOTES = 4  # ours: fewer caught notes say nothing of three sizes

# Weak priors on the sizes: median, and standard deviation of the logarithm (log odds for alpha).
# From memory: clock 1–4 % and hand 5–10 ms (Wing & Kristofferson 1973; Semjen, Schulze & Vorberg
# 2000, Psychol Res 63:137), alpha .2–.8 (Vorberg & Schulze 2002). The spreads are ours.
CLOCK_PRIOR = (0.018, 0.7)
HAND_PRIOR_MS = (8.0, 0.6)
ALPHA_PRIOR = (0.4, 1.5)


SPREAD_OF_TAKES = 0.25  # ours, weak: how far one player's log sizes differ from take to take in truth
FEWEST_TAKES = 3  # ours: fewer earlier takes say little of a player


@dataclass(frozen=True, slots=True)
class Prior:
    """What is known of the sizes beforehand: of log clock (a share), log hand (ms) and log odds of alpha.

    Attributes
    ----------
    centre, spread : array of float, shape (3,)
    """

    centre: FloatArray
    spread: FloatArray


WEAK = Prior(
    centre=np.array([log(CLOCK_PRIOR[0]), log(HAND_PRIOR_MS[0]), log(ALPHA_PRIOR[0] / (1 - ALPHA_PRIOR[0]))]),
    spread=np.array([CLOCK_PRIOR[1], HAND_PRIOR_MS[1], ALPHA_PRIOR[1]]),
)


@dataclass(frozen=True, slots=True)
class Seen:
    """What one take showed of the sizes, under the weak prior's scale: means and standard deviations.

    Attributes
    ----------
    free, free_sd : tuple of 3 floats
        Log of clock (a share) and of hand (ms), log odds of alpha.
    """

    free: tuple[float, float, float]
    free_sd: tuple[float, float, float]


def prior_from(earlier: Sequence[Seen]) -> Prior:
    """Return what a player's earlier takes let expect of the next: the weak prior for fewer than three.

    Notes
    -----
    Random effects over takes (``pooling``) with the weak prior as one take more; the spread is that
    of one further take, so a change of instrument or of form stays possible.
    """
    if len(earlier) < FEWEST_TAKES:
        return WEAK
    centre, spread = np.empty(3), np.empty(3)
    for k in range(3):
        values = [WEAK.centre[k], *(seen.free[k] for seen in earlier)]
        variances = [WEAK.spread[k] ** 2, *(max(seen.free_sd[k], 0.05) ** 2 for seen in earlier)]
        pooled = pool(values, variances, scale=SPREAD_OF_TAKES)
        centre[k] = pooled.mean
        spread[k] = hypot(pooled.spread, (pooled.ci95[1] - pooled.ci95[0]) / 3.92, SPREAD_OF_TAKES / 2)
    return Prior(centre, np.minimum(spread, WEAK.spread))


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
        Log of clock and of hand, log odds of alpha, and their posterior standard deviations.
    """

    mode: Sizes
    solutions: list[Solution]
    weights: FloatArray
    free: FloatArray
    free_sd: FloatArray

    @property
    def seen(self) -> Seen:
        """What the take showed, for the player's history."""
        (a, b, c), (d, e, f) = self.free.tolist(), self.free_sd.tolist()
        return Seen((a, b, c), (d, e, f))


def share_of(log_odds: float) -> float:
    """Return a share from its log odds."""
    return float(1 / (1 + exp(-log_odds)))


def likely_sizes(take: Chain, prior: Prior) -> Likely:
    """Return the likely sizes of a take, under what is known beforehand."""
    centre, spread = prior.centre, prior.spread
    part = excerpt(take)
    glance = excerpt(take, most=GLANCE)

    def cost(free: FloatArray, of: Chain = part) -> float:
        away = (free - centre) / spread
        sizes = _sizes_of(free)
        return 0.5 * float(away @ away) - Solution(of, sizes).log_likelihood

    low, high = centre - 5 * spread, centre + 5 * spread
    trials = [centre + spread * [clock, hand, 0.0] for clock, hand in product((-1.0, 0.0, 1.0), repeat=2)]
    mode, deviations = find_mode(cost, min(trials, key=lambda free: cost(free, glance)), low, high)
    corners = [np.clip(mode + deviations @ z, low, high) for z in product((-1.0, 1.0), repeat=3)]
    costs = np.array([cost(corner) for corner in corners])
    weights = np.exp(np.maximum(costs.min() - costs, -4.0))
    return Likely(
        mode=_sizes_of(mode),
        solutions=[Solution(take, _sizes_of(c)) for c in corners],
        weights=weights / weights.sum(),
        free=mode,
        free_sd=np.sqrt(np.sum(deviations**2, axis=1)),
    )


def find_mode(
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


def excerpt(take: Chain, *, most: int = EXCERPT * EXCERPTS) -> Chain:
    """Return the stretches of a take that its sizes are estimated from, cut between silences, as one."""
    each = most // EXCERPTS
    n = take.error_ms.size
    if n <= most:
        return take
    cuts = take.ends if take.ends.size > 1 else np.arange(0, n, each // 4)
    parts, after = [], 0
    for wanted in np.linspace(0, n - each, EXCERPTS):
        first = cuts[min(np.searchsorted(cuts, max(wanted, after)), cuts.size - 2)]
        last = cuts[min(np.searchsorted(cuts, first + each), cuts.size - 1)]
        part = take.between(int(first), int(last))
        if first >= after and np.count_nonzero(part.caught) >= MIN_NOTES:  # no note counts twice
            parts.append(part)
            after = int(last) + 1
    return joined(parts) if parts else take


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
    return Sizes(clock=exp(free[0]), hand_ms=exp(free[1]), alpha=share_of(free[2]))
