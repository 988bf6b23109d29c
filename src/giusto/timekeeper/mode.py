"""Where smooth costs of a few unknowns are least, and how sharply."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from giusto.arrays import BoolArray, FloatArray

STEP = 0.005  # ours: of the differences, in log units; small against the bend of the cost, large against rounding
STEPS, GRADIENT = 30, 0.3  # ours: most steps, and a slope that leaves next to nothing of the cost to gain
RADIUS, WIDEST = 1.0, 2.0  # ours: of the trust region, in log units
FLATTEST = 0.5  # ours: curvature below which an axis is taken for this flat; the priors' is 1 to 3
Costs = Callable[[FloatArray], FloatArray]


@dataclass(frozen=True, slots=True)
class Mode:
    """Where a cost is least.

    Attributes
    ----------
    at : array of float, shape (n,)
    cost : float
    axes : array of float, shape (n, n)
        In columns, the principal axes of the cost's curvature there, one standard deviation long.
    found : bool
        Whether the search ended there, rather than running out of steps.
    """

    at: FloatArray
    cost: float
    axes: FloatArray
    found: bool

    @property
    def sd(self) -> FloatArray:
        """The standard deviation of each unknown, shape (n,)."""
        sd: FloatArray = np.sqrt(np.sum(self.axes**2, axis=1))
        return sd


@dataclass(frozen=True, slots=True)
class Slopes:
    """Costs, shape (m,), their gradients, shape (m, n), and Hessians, shape (m, n, n), at a point each."""

    cost: FloatArray
    gradient: FloatArray
    hessian: FloatArray


def find_mode(costs: Costs, start: FloatArray, low: FloatArray, high: FloatArray) -> Mode:
    """Return where a cost is least between two corners.

    Parameters
    ----------
    costs : callable
        From points, shape (k, n), to the cost at each, shape (k,); smooth, and finite between the corners.
    start, low, high : array of float, shape (n,)
    """
    return find_modes(lambda points: costs(points[0])[None], start[None], low, high)[0]


def find_modes(costs: Costs, starts: FloatArray, low: FloatArray, high: FloatArray) -> list[Mode]:
    """Return where each of several costs is least between two corners, all of them looked for at once.

    Parameters
    ----------
    costs : callable
        From points, shape (m, k, n), to the costs there, shape (m, k): row by row of one cost each.
    starts : array of float, shape (m, n)
    low, high : array of float, shape (n,)

    Returns
    -------
    list of Mode
        m of them.

    Notes
    -----
    Newton's steps, no longer than a radius that grows where a step lowers the cost and shrinks where it doesn't; an
    axis that is flat or bent the wrong way is taken for gently bent, so that every step leads down. Slopes are
    central differences, which also give the curvature that the ranges need.

    References
    ----------
    Conn, Gould & Toint 2000, Trust-region methods, ch. 6 (from memory).
    """

    def slopes_at(points: FloatArray) -> Slopes:
        return slopes(lambda some: costs(np.clip(some, low, high)), points)

    at = np.clip(starts, low, high)
    here, radius = slopes_at(at), np.full(len(at), RADIUS)
    found = _is_level(here)
    for _ in range(STEPS):
        if found.all():
            break
        tried = np.where(found[:, None], at, np.clip(at + _step(here, radius), low, high))
        there = slopes_at(tried)
        falls = there.cost <= here.cost
        radius = np.where(falls, np.minimum(2 * radius, WIDEST), radius / 4)
        stuck = np.all(tried == at, axis=1)
        at = np.where(falls[:, None], tried, at)
        here = Slopes(
            np.where(falls, there.cost, here.cost),
            np.where(falls[:, None], there.gradient, here.gradient),
            np.where(falls[:, None, None], there.hessian, here.hessian),
        )
        found = _is_level(here) | stuck
    values, vectors = np.linalg.eigh(here.hessian)
    axes = vectors / np.sqrt(np.maximum(np.abs(values), FLATTEST))[:, None, :]
    return [Mode(*one) for one in zip(at, here.cost.tolist(), axes, found.tolist(), strict=True)]


def slopes(costs: Costs, at: FloatArray) -> Slopes:
    """Return costs, gradients and Hessians at points of shape (m, n), by central differences, all asked for at once.

    Examples
    --------
    >>> found = slopes(lambda x: x[..., 0] ** 2 + x[..., 0] * x[..., 1], np.array([[1.0, 2.0]]))
    >>> found.cost.tolist(), np.round(found.gradient, 6).tolist(), np.round(found.hessian, 6).tolist()
    ([3.0], [[4.0, 1.0]], [[[2.0, 1.0], [1.0, 0.0]]])
    """
    n = at.shape[1]
    unit = np.eye(n) * STEP
    pairs = list(combinations(range(n), 2))
    both = np.array([unit[i] + unit[j] for i, j in pairs]).reshape(-1, n)
    found = costs(at[:, None, :] + np.vstack([np.zeros((1, n)), unit, -unit, both]))
    middle, ahead, behind, together = np.split(found, [1, n + 1, 2 * n + 1], axis=1)
    hessian = np.zeros((len(at), n, n))
    hessian[:, range(n), range(n)] = (ahead - 2 * middle + behind) / STEP**2
    for k, (i, j) in enumerate(pairs):
        hessian[:, i, j] = hessian[:, j, i] = (together[:, k] - ahead[:, i] - ahead[:, j] + middle[:, 0]) / STEP**2
    return Slopes(middle[:, 0], (ahead - behind) / (2 * STEP), hessian)


def _step(here: Slopes, radius: FloatArray) -> FloatArray:
    """Return a step down from each point, shape (m, n), no longer than its radius."""
    values, vectors = np.linalg.eigh(here.hessian)
    along = np.einsum("mij,mi->mj", vectors, here.gradient) / np.maximum(np.abs(values), FLATTEST)
    step = -np.einsum("mij,mj->mi", vectors, along)
    length = np.linalg.norm(step, axis=1)
    shorter: FloatArray = step * np.minimum(1.0, radius / np.maximum(length, radius))[:, None]
    return shorter


def _is_level(here: Slopes) -> BoolArray:
    level: BoolArray = np.linalg.norm(here.gradient, axis=1) < GRADIENT
    return level
