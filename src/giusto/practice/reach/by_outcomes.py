"""Reach from silences of any lengths that were held or not: the length that is held three times in four."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log2
from typing import Any

import numpy as np
from scipy.special import ndtr, ndtri

from giusto.arrays import FloatArray
from giusto.ranges import Range
from giusto.returns.drift import HELD_OFTEN

SPREADS_OCT = np.linspace(0.3, 1.2, 7)  # octaves; by the contract, integrated over
LAPSES = np.linspace(0.0, 0.05, 3)  # by the contract, as well
SHORTEST, LONGEST, STEP = -2.0, 12.0, 0.05  # ours: log2 of a quarter of a beat and of 4,096, and the grid between
LONGEST_NEXT = 1024  # ours: beats of a silence that is proposed
UNLIKELY = 1e-9  # ours: of the likeliest point's weight


@dataclass(frozen=True, slots=True)
class ReachByOutcomes:
    """How long a silence is held three times in four, as ``reach/1`` writes it.

    Attributes
    ----------
    beats : float or None
        None where all were held or none was.
    ci95_beats : (float, float) or None
    n : int
    next_beats : int
        The length whose outcome is expected to tell most.
    reason : str
        ``""``, or why there is no reach: ``all-held`` or ``none-held``.
    at_least, at_most : float or None
        What can be said then: the end of the 95 % range on the side that the silences tell of.
    """

    beats: float | None
    ci95_beats: Range | None
    n: int
    next_beats: int
    reason: str = ""
    at_least: float | None = None
    at_most: float | None = None

    def plain(self) -> dict[str, Any]:
        """Return it as the file has it."""
        found: dict[str, Any] = {
            "giusto": "reach/1",
            "beats": self.beats,
            "ci95_beats": list(self.ci95_beats) if self.ci95_beats else None,
            "n": self.n,
            "next_beats": self.next_beats,
        }
        if self.reason:
            found |= {"reason": self.reason, "at_least": self.at_least, "at_most": self.at_most}
        return found


def reach_by_outcomes(beats: Sequence[float], held: Sequence[bool]) -> ReachByOutcomes:
    """Return a player's reach.

    Parameters
    ----------
    beats : sequence of float
        Lengths of silences, above 0.
    held : sequence of bool
        Which of them were held; of the same length, at least one.

    Returns
    -------
    ReachByOutcomes

    Notes
    -----
    The chance that a silence is held falls over the log of its length as a cumulative normal, ``(1 − lapse) ·
    Φ((half − log₂ beats) / spread)``; half, spread and lapse are integrated over on a grid, flat. The next
    length is that after which the posterior's entropy is expected to be least.

    References
    ----------
    Kontsevich & Tyler 1999, Vision Res 39:2729, adaptive estimation by expected entropy (from memory).
    """
    was_held = np.asarray(held, dtype=bool)
    fit = _Fit(beats, was_held)
    low, middle, high = (round(float(2.0**end), 3) for end in fit.reach_quantiles((0.025, 0.5, 0.975)))
    n, following = was_held.size, fit.most_telling()
    if was_held.all():
        return ReachByOutcomes(None, None, n, following, "all-held", at_least=low)
    if not was_held.any():
        return ReachByOutcomes(None, None, n, following, "none-held", at_most=high)
    return ReachByOutcomes(middle, (low, high), n, following)


class _Fit:
    """The posterior of half, spread and lapse on their grid."""

    def __init__(self, beats: Sequence[float], held: np.ndarray) -> None:
        x = np.log2(np.asarray(beats, dtype=np.float64))
        self.half, self.spread, self.lapse = (
            grid.ravel() for grid in np.meshgrid(np.arange(SHORTEST, LONGEST, STEP), SPREADS_OCT, LAPSES, indexing="ij")
        )
        log_weight = np.zeros(self.half.size)
        lengths, index = np.unique(x, return_inverse=True)
        for number, length in enumerate(lengths.tolist()):
            chance, here = self.chance(length), index == number
            yes, no = int(np.count_nonzero(here & held)), int(np.count_nonzero(here & ~held))
            log_weight += yes * np.log(np.maximum(chance, 1e-12)) + no * np.log(np.maximum(1 - chance, 1e-12))
        weight = np.exp(log_weight - log_weight.max())
        likely = weight > UNLIKELY  # the rest tells nothing, and costs as much
        self.half, self.spread, self.lapse = self.half[likely], self.spread[likely], self.lapse[likely]
        self.weight: FloatArray = weight[likely] / weight[likely].sum()

    def chance(self, x: float) -> FloatArray:
        """Return the chance at a log length, for each point of the grid."""
        found: FloatArray = (1 - self.lapse) * ndtr((self.half - x) / self.spread)
        return found

    def reach_quantiles(self, shares: tuple[float, ...]) -> list[float]:
        """Return quantiles of where the curve is at three times in four."""
        at = self.half + self.spread * ndtri(1 - HELD_OFTEN / (1 - self.lapse))
        return _quantiles(at, self.weight, shares)

    def most_telling(self) -> int:
        """Return the whole number of beats whose outcome is expected to leave the least entropy."""
        tried = np.unique(np.round(2.0 ** np.arange(0, log2(LONGEST_NEXT) + 0.1, 0.125)).astype(int)).tolist()
        left = []
        for beats in tried:
            chance = self.chance(log2(beats))
            held = float(self.weight @ chance)
            left.append(held * _entropy(self.weight * chance) + (1 - held) * _entropy(self.weight * (1 - chance)))
        return int(tried[int(np.argmin(left))])


def _quantiles(at: FloatArray, weight: FloatArray, shares: tuple[float, ...]) -> list[float]:
    order = np.argsort(at)
    below = np.cumsum(weight[order])
    return [float(at[order][min(int(np.searchsorted(below, share)), at.size - 1)]) for share in shares]


def _entropy(weight: FloatArray) -> float:
    total = weight.sum()
    some = weight[weight > 0] / total if total > 0 else np.ones(1)
    return float(-np.sum(some * np.log(some)))
