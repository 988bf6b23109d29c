"""Reach: how long a silence a player bridges, from silences of any lengths that were held or not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log2
from typing import Any

import numpy as np
from scipy.special import ndtr, ndtri

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.notes.csv_file import NUMBER
from giusto.notes.csv_rows import csv_rows
from giusto.ranges import Range

HELD_SHARE = 0.75  # by the contract of reach/1: held three times in four
SPREADS = np.linspace(0.3, 1.2, 7)  # octaves; by the contract, integrated over
LAPSES = np.linspace(0.0, 0.05, 3)  # by the contract, as well
SHORTEST, LONGEST, STEP = -2.0, 12.0, 0.05  # ours: log2 of a quarter of a beat and of 4,096, and the grid between
MOST_BEATS, LONGEST_NEXT = 100_000.0, 1024  # ours: of a silence that is read, and of one that is proposed


@dataclass(frozen=True, slots=True)
class Reach:
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


def reach(beats: Sequence[float], held: Sequence[bool]) -> Reach:
    """Return a player's reach.

    Parameters
    ----------
    beats : sequence of float
        Lengths of silences, above 0.
    held : sequence of bool
        Which of them were held; of the same length, at least one.

    Returns
    -------
    Reach

    Notes
    -----
    The chance that a silence is held falls over the log of its length as a cumulative normal, ``(1 − lapse) ·
    Φ((half − log₂ beats) / spread)``; half, spread and lapse are integrated over on a grid, flat. The next
    length is that after which the posterior's entropy is expected to be least.

    References
    ----------
    Kontsevich & Tyler 1999, Vision Res 39:2729, adaptive estimation by expected entropy (from memory).
    """
    x = np.log2(np.asarray(beats, dtype=np.float64))
    was_held = np.asarray(held, dtype=bool)
    half, spread, lapse = (
        grid.ravel() for grid in np.meshgrid(np.arange(SHORTEST, LONGEST, STEP), SPREADS, LAPSES, indexing="ij")
    )
    weight = _posterior(x, was_held, half, spread, lapse)
    at = half + spread * ndtri(1 - HELD_SHARE / (1 - lapse))  # where it is held three times in four
    low, middle, high = (round(float(2.0**end), 3) for end in _quantiles(at, weight, (0.025, 0.5, 0.975)))
    following = _most_telling(half, spread, lapse, weight)
    if was_held.all():
        return Reach(None, None, x.size, following, "all-held", at_least=low)
    if not was_held.any():
        return Reach(None, None, x.size, following, "none-held", at_most=high)
    return Reach(middle, (low, high), x.size, following)


def parse_silences(text: str | bytes) -> tuple[list[float], list[bool]]:
    """Read silences: CSV with the columns ``beats`` and ``held``.

    Raises
    ------
    GiustoError
        With the line, what was found and what is allowed.
    """
    header, rows = csv_rows(text, "the silences")
    if header != ["beats", "held"]:
        raise GiustoError(f'line 1 must be "beats,held", found "{",".join(header)[:80]}"', code="header")
    beats, held = [], []
    for line, row in rows:
        length, word = [field.strip() for field in row] if len(row) == len(header) else ("", "")
        if not NUMBER.fullmatch(length) or not 0 < float(length) <= MOST_BEATS or word not in ("0", "1"):
            allowed = f"a length above 0 up to {MOST_BEATS:,.0f} beats, and 1 or 0"
            raise GiustoError(f'line {line} is "{",".join(row)[:60]}", allowed is {allowed}', code="row")
        beats.append(float(length))
        held.append(word == "1")
    if not beats:
        raise GiustoError("there is no silence in the file, needed is at least one", code="empty")
    return beats, held


def _posterior(x: FloatArray, held: np.ndarray, half: FloatArray, spread: FloatArray, lapse: FloatArray) -> FloatArray:
    log_weight = np.zeros(half.size)
    lengths, index = np.unique(x, return_inverse=True)
    for number, length in enumerate(lengths.tolist()):
        chance = _chance(length, half, spread, lapse)
        yes = int(np.count_nonzero(held[index == number]))
        no = int(np.count_nonzero(index == number)) - yes
        log_weight += yes * np.log(np.maximum(chance, 1e-12)) + no * np.log(np.maximum(1 - chance, 1e-12))
    weight: FloatArray = np.exp(log_weight - log_weight.max())
    found: FloatArray = weight / weight.sum()
    return found


def _chance(x: float, half: FloatArray, spread: FloatArray, lapse: FloatArray) -> FloatArray:
    chance: FloatArray = (1 - lapse) * ndtr((half - x) / spread)
    return chance


def _quantiles(at: FloatArray, weight: FloatArray, shares: tuple[float, ...]) -> list[float]:
    order = np.argsort(at)
    below = np.cumsum(weight[order])
    return [float(at[order][min(int(np.searchsorted(below, share)), at.size - 1)]) for share in shares]


def _most_telling(half: FloatArray, spread: FloatArray, lapse: FloatArray, weight: FloatArray) -> int:
    """Return the whole number of beats whose outcome is expected to leave the least entropy."""
    tried = np.unique(np.round(2.0 ** np.arange(0, log2(LONGEST_NEXT) + 0.1, 0.125)).astype(int)).tolist()
    left = []
    for beats in tried:
        chance = _chance(log2(beats), half, spread, lapse)
        held = float(weight @ chance)
        left.append(held * _entropy(weight * chance) + (1 - held) * _entropy(weight * (1 - chance)))
    return int(tried[int(np.argmin(left))])


def _entropy(weight: FloatArray) -> float:
    total = weight.sum()
    some = weight[weight > 0] / total if total > 0 else np.ones(1)
    return float(-np.sum(some * np.log(some)))
