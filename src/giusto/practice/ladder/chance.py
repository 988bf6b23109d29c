"""The chance of a clean attempt on each rung, as far as the attempts tell it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from giusto.arrays import FloatArray
from giusto.practice.ladder.attempts_csv import Attempt

# Ours: the curve over the rungs falls as a logistic does; where it is a half, and how many rungs it takes to fall from
# .73 to .27 are found on a grid, and both are averaged over.
HALF_BEYOND, HALF_STEP = 6.0, 0.25  # how far beyond the ladder the half may lie, and how finely, in rungs
SLOPES = (0.5, 0.8, 1.3, 2.0, 3.2, 5.0)
MEMORY = 300.0  # ours: attempts after which one counts half
MOST_UP = 2  # by the contract of ladder/1


@dataclass(frozen=True, slots=True)
class Chance:
    """The chance of a clean attempt on a rung, and its range.

    Attributes
    ----------
    estimate : float
    ci95 : (float, float)
    """

    estimate: float
    ci95: tuple[float, float]


class Chances:
    """What attempts tell of every rung of a ladder of so many, as a belief over curves: one log weight each."""

    def __init__(self, rungs: int) -> None:
        self._curves = _curves(rungs)

    def after(self, belief: FloatArray | None, attempt: Attempt) -> FloatArray:
        """Return the belief after one attempt more; what came before counts a little less.

        Parameters
        ----------
        belief : array of float, shape (curves,), or None
            None before any attempt.
        attempt : Attempt
        """
        chance = self._curves[attempt.rung - 1]
        clean = attempt.cleanness
        held, missed = (np.log(np.clip(one, 1e-12, 1.0)) for one in (chance, 1 - chance))
        told: FloatArray = clean * held + (1 - clean) * missed
        return told if belief is None else 0.5 ** (1 / MEMORY) * belief + told

    def of(self, belief: FloatArray | None, rung: int) -> Chance:
        """Return the chance on a rung, from 1."""
        weight, curve = self._weight(belief), self._curves[rung - 1]
        order = np.argsort(curve)
        below = np.cumsum(weight[order])
        low, high = (
            float(curve[order][min(np.searchsorted(below, share), curve.size - 1)]) for share in (0.025, 0.975)
        )
        return Chance(round(float(weight @ curve), 4), (round(low, 4), round(high, 4)))

    def rung_in(self, belief: FloatArray, low: float, high: float, *, now: int, most: int) -> int:
        """Return the rung that most likely has its chance in a band: at most two above ``now``, none above ``most``."""
        off = np.maximum(np.maximum(low - self._curves, self._curves - high), 0.0)
        fits = off <= off.min(axis=0)  # those in the band, or, where none is, the one nearest to it
        likely = fits[: min(now + MOST_UP, most)] @ self._weight(belief)
        return int(np.argmax(likely)) + 1

    def _weight(self, belief: FloatArray | None) -> FloatArray:
        log_weight = np.zeros(self._curves.shape[1]) if belief is None else belief
        weight: FloatArray = np.exp(log_weight - log_weight.max())
        weight /= weight.sum()
        return weight


@lru_cache(maxsize=64)
def _curves(rungs: int) -> FloatArray:
    """Return the chance on each rung by each curve, shape (rungs, curves)."""
    half = np.arange(1 - HALF_BEYOND, rungs + HALF_BEYOND + HALF_STEP, HALF_STEP)
    at, slope = (grid.ravel() for grid in np.meshgrid(half, np.array(SLOPES), indexing="ij"))
    curves: FloatArray = 1 / (1 + np.exp((np.arange(1, rungs + 1)[:, None] - at) / slope))
    return curves
