"""Where a smooth cost of a few unknowns is least, and how sharply."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from itertools import combinations

import numpy as np
from scipy.optimize import minimize

from giusto.arrays import FloatArray

STEP = 0.005  # ours: of the differences, in log units; small against the bend of the cost, large against rounding
STEPS, GRADIENT = 30, 0.3  # ours: most steps, and a slope that leaves next to nothing of the cost to gain
RADIUS, WIDEST = 1.0, 2.0  # ours: of the trust region, in log units
FLATTEST = 0.5  # ours: curvature below which an axis is taken for this flat; the priors' is 1 to 3


@dataclass(frozen=True, slots=True)
class Mode:
    """Where a cost is least.

    Attributes
    ----------
    at : array of float, shape (n,)
    axes : array of float, shape (n, n)
        In columns, the principal axes of the cost's curvature there, one standard deviation long.
    found : bool
        Whether the search ended there, rather than running out of steps.
    """

    at: FloatArray
    axes: FloatArray
    found: bool

    @property
    def sd(self) -> FloatArray:
        """The standard deviation of each unknown, shape (n,)."""
        sd: FloatArray = np.sqrt(np.sum(self.axes**2, axis=1))
        return sd


def find_mode(cost: Callable[[FloatArray], float], start: FloatArray, low: FloatArray, high: FloatArray) -> Mode:
    """Return where ``cost`` is least between two corners.

    Parameters
    ----------
    cost : callable
        From an array of shape (n,); smooth, and finite between the corners.
    start, low, high : array of float, shape (n,)

    Returns
    -------
    Mode

    References
    ----------
    ``scipy.optimize.minimize``, method ``trust-exact`` (Conn, Gould & Toint 2000, ch. 7); slopes by
    central differences, which also give the curvature that the ranges need.
    """

    @cache
    def cost_at(point: tuple[float, ...]) -> float:
        return cost(np.clip(point, low, high))

    @cache
    def slopes_at(point: tuple[float, ...]) -> tuple[FloatArray, FloatArray]:
        return slopes(lambda at: cost_at(tuple(at.tolist())), np.array(point))

    ended = minimize(  # type: ignore[call-overload]  # its stubs know no array of more than its own shape
        lambda at: cost_at(tuple(at.tolist())),
        np.clip(start, low, high),
        jac=lambda at: slopes_at(tuple(at.tolist()))[0],
        hess=lambda at: slopes_at(tuple(at.tolist()))[1],
        method="trust-exact",
        options={"initial_trust_radius": RADIUS, "max_trust_radius": WIDEST, "gtol": GRADIENT, "maxiter": STEPS},
    )
    at = np.clip(ended.x, low, high)
    values, vectors = np.linalg.eigh(slopes_at(tuple(ended.x.tolist()))[1])
    return Mode(at, vectors / np.sqrt(np.maximum(np.abs(values), FLATTEST)), bool(ended.success))


def slopes(cost: Callable[[FloatArray], float], at: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return gradient and Hessian of ``cost``, by central differences.

    Examples
    --------
    >>> gradient, hessian = slopes(lambda x: float(x[0] ** 2 + x[0] * x[1]), np.array([1.0, 2.0]))
    >>> np.round(gradient, 6).tolist(), np.round(hessian, 6).tolist()
    ([4.0, 1.0], [[2.0, 1.0], [1.0, 0.0]])
    """
    unit = np.eye(at.size) * STEP
    middle = cost(at)
    ahead, behind = (np.array([cost(at + sign * each) for each in unit]) for sign in (1, -1))
    hessian = np.diag((ahead - 2 * middle + behind) / STEP**2)
    for i, j in combinations(range(at.size), 2):
        both = cost(at + unit[i] + unit[j]) - ahead[i] - ahead[j] + middle
        hessian[i, j] = hessian[j, i] = both / STEP**2
    return (ahead - behind) / (2 * STEP), hessian
