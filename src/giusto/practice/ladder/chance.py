"""The chance of a clean attempt on each rung, as far as the attempts tell it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from math import ceil

import numpy as np
from scipy.special import ndtri

from giusto.arrays import FloatArray
from giusto.practice.ladder.attempts_csv import Attempt

# Ours: the curve over the rungs falls as a logistic does. Where it is a half, and how many rungs it takes to fall from
# .73 to .27, are not known; the half drifts from attempt to attempt, by so much and as unevenly as is not known either.
HALF_BEYOND, HALF_STEP = 6.0, 0.125  # how far beyond the ladder the half may lie, and how finely, in rungs
SLOPES = (0.7, 1.2, 2.1)
GAINS = ((0.0, 0.5), (0.02, 0.25), (0.035, 0.25))  # rungs an attempt, and how likely beforehand
WANDERS = ((0.002, 0.95), (0.06, 0.05))  # the same, of its standard deviation
NODES = 33  # equally likely values that stand for a step of the half
MOST_NIGHTS = 30  # ours: after more of them as little is known
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
    """What attempts tell of every rung of a ladder of so many: how likely each curve is, and each way it drifts.

    A belief is an array of shape (ways, slopes, halves), summing to 1; None before any attempt.

    References
    ----------
    A hidden threshold that drifts, filtered forward on a grid: Kontsevich & Tyler 1999 for the grid, Rabiner 1989, Proc
    IEEE 77:257, for the filter (both from memory).
    """

    def __init__(self, rungs: int) -> None:
        self._curves = _curves(rungs)

    def after(self, belief: FloatArray | None, attempt: Attempt, *, nights: int = 0) -> FloatArray:
        """Return the belief after one attempt more.

        Parameters
        ----------
        belief : array of float or None
        attempt : Attempt
        nights : int
            Since the attempt before: over them the half wanders too.
        """
        chance = self._curves[attempt.rung - 1]
        clean = attempt.cleanness
        held, missed = (np.log(np.clip(one, 1e-12, 1.0)) for one in (chance, 1 - chance))
        known = self._known(belief) * np.exp(clean * held + (1 - clean) * missed)
        for _ in range(1 + min(nights, MOST_NIGHTS)):
            known = _drifted(known)
        after: FloatArray = known / known.sum()
        return after

    def of(self, belief: FloatArray | None, rung: int) -> Chance:
        """Return the chance on a rung, from 1."""
        weight, curve = self._known(belief).sum(axis=0).ravel(), self._curves[rung - 1].ravel()
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
        likely = np.tensordot(fits[: min(now + MOST_UP, most)], belief.sum(axis=0), 2)
        return int(np.argmax(likely)) + 1

    def _known(self, belief: FloatArray | None) -> FloatArray:
        if belief is not None:
            return belief
        ways = np.outer([share for _, share in GAINS], [share for _, share in WANDERS]).ravel()
        shape = self._curves.shape[1:]
        known: FloatArray = ways[:, None, None] * np.full(shape, 1 / np.prod(shape))
        return known


def _drifted(belief: FloatArray) -> FloatArray:
    """Return a belief one step on: along the halves, by each way's own kernel; what would leave the grid stays."""
    kernels = _kernels()
    reach = kernels.shape[1] // 2
    size = belief.shape[2]
    moved = np.zeros((*belief.shape[:2], size + 2 * reach))
    for index in range(kernels.shape[1]):
        shift = index - reach
        moved[:, :, reach + shift : reach + shift + size] += kernels[:, index, None, None] * belief
    drifted: FloatArray = moved[:, :, reach : reach + size].copy()
    drifted[:, :, 0] += moved[:, :, :reach].sum(axis=2)
    drifted[:, :, -1] += moved[:, :, reach + size :].sum(axis=2)
    return drifted


@lru_cache(maxsize=1)
def _kernels() -> FloatArray:
    """Return how a half moves in a step by each way, shape (ways, steps of the grid): between two of them as near."""
    nodes = ndtri((np.arange(NODES) + 0.5) / NODES)
    ways = [(gain, wander) for gain, _ in GAINS for wander, _ in WANDERS]
    reach = 1 + ceil(max(gain + wander * nodes[-1] for gain, wander in ways) / HALF_STEP)
    kernels = np.zeros((len(ways), 2 * reach + 1))
    for row, (gain, wander) in zip(kernels, ways, strict=True):
        at = (gain + wander * nodes) / HALF_STEP + reach
        below = np.floor(at).astype(np.int64)
        np.add.at(row, below, (1 - (at - below)) / NODES)
        np.add.at(row, below + 1, (at - below) / NODES)
    return kernels


@lru_cache(maxsize=64)
def _curves(rungs: int) -> FloatArray:
    """Return the chance on each rung by each curve, shape (rungs, slopes, halves)."""
    half = np.arange(1 - HALF_BEYOND, rungs + HALF_BEYOND + HALF_STEP, HALF_STEP)
    rung = np.arange(1, rungs + 1)[:, None, None]
    curves: FloatArray = 1 / (1 + np.exp((rung - half) / np.array(SLOPES)[:, None]))
    return curves
