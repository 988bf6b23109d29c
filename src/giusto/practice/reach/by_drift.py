"""Reach from returns with their spreads: the length whose true return is within the limit three times in four."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import floor, log2
from typing import Any, Literal

import numpy as np

from giusto.ranges import Range
from giusto.returns.drift import Drift, Returns, drift_of, quantiles

HELD_USUALLY = 2 / 3  # by the contract: the longest length tried whose chance is at least that is held
SURE_WITHIN = 1.25  # by the order: a test of reach ends when its range lies within a quarter
FIRST_BEATS = 8  # ours: where a test of reach begins
MOST_BEATS = 1024  # ours: of a silence that is proposed
LENGTHS = (1, 2, 3, 4, 5, 6, 8, 10, 12, 16, 20, 24, 28, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256)
MIDDLE, ENDS = 0.5, (0.025, 0.975)
Bounded = Literal["below", "above"]


@dataclass(frozen=True, slots=True)
class ChanceAt:
    """The chance that a silence of some length is held, and its 95 % range."""

    beats: float
    chance: float
    ci95: Range


@dataclass(frozen=True, slots=True)
class Reach:
    """How long a silence is bridged, as ``reach/2`` writes it.

    Attributes
    ----------
    beats : float or None
        The length that is held three times in four; None where there is nothing to go by.
    ci95_beats : (float, float) or None
    bounded : str or None
        ``below`` where the range ends above all that the takes can tell of, so that it is *at least* its lower end;
        ``above``, *at most* its upper one.
    silences, takes : int
    lean_percent : float or None
        The tempo that is kept alone, less the asked one; faster is positive.
    lean_ci95_percent : (float, float) or None
    curve : list of ChanceAt
        At 1, 2, 4, … up to twice the longest length tried.
    longest : ChanceAt or None
        The longest length tried whose chance is at least two in three.
    next_beats : int
        The length to try next.
    reason : str
        ``""``, or why there is no reach: ``no-silences``.
    """

    beats: float | None
    ci95_beats: Range | None
    bounded: Bounded | None
    silences: int
    takes: int
    lean_percent: float | None
    lean_ci95_percent: Range | None
    curve: list[ChanceAt]
    longest: ChanceAt | None
    next_beats: int
    reason: str = ""
    drift: Drift = field(repr=False, compare=False, kw_only=True)

    @property
    def is_sure(self) -> bool:
        """Whether the range lies within a quarter of the estimate, so that a test of it may end."""
        if self.beats is None or self.ci95_beats is None or self.bounded:
            return False
        low, high = self.ci95_beats
        return high <= SURE_WITHIN * self.beats and low >= self.beats / SURE_WITHIN

    def plain(self) -> dict[str, Any]:
        """Return it as the file has it."""
        longest = self.longest
        found: dict[str, Any] = {
            "giusto": "reach/2",
            "beats": self.beats,
            "ci95_beats": _list(self.ci95_beats),
            "bounded": self.bounded,
            "silences": self.silences,
            "takes": self.takes,
            "lean_percent": self.lean_percent,
            "lean_ci95_percent": _list(self.lean_ci95_percent),
            "curve": [{"beats": one.beats, "chance": one.chance, "ci95": list(one.ci95)} for one in self.curve],
            "longest": {"beats": longest.beats, "chance": longest.chance} if longest else None,
            "next_beats": self.next_beats,
        }
        return found | ({"reason": self.reason} if self.reason else {})


def reach(returns: Returns) -> Reach:
    """Return how long a silence a player bridges.

    Parameters
    ----------
    returns : Returns
        Of the silences near one tempo; none are nothing to go by, and say where to begin.
    """
    drift = drift_of(returns)
    if not returns.beats.size:
        return Reach(None, None, None, 0, 0, None, None, [], None, FIRST_BEATS, "no-silences", drift=drift)
    low, middle, high = drift.reach_quantiles((ENDS[0], MIDDLE, ENDS[1]))
    late = drift.lean_quantiles((ENDS[1], MIDDLE, ENDS[0]))
    lean_low, lean, lean_high = (round(-100 * one / (1 + one), 3) for one in late)
    tried = np.unique(returns.beats)
    shortest, longest = float(tried[0]), float(tried[-1])
    held = [one for one in chances_at(drift, tried) if one.chance >= HELD_USUALLY]
    return Reach(
        beats=round(middle, 3),
        ci95_beats=(round(low, 3), round(high, 3)),
        bounded="below" if high > 2 * longest else "above" if low < shortest / 2 else None,
        silences=returns.beats.size,
        takes=int(np.unique(returns.take).size),
        lean_percent=lean,
        lean_ci95_percent=(lean_low, lean_high),
        curve=chances_at(drift, 2.0 ** np.arange(floor(log2(max(2 * longest, 1.0))) + 1)),
        longest=held[-1] if held else None,
        next_beats=_next(middle, longest),
        drift=drift,
    )


def chances_at(drift: Drift, beats: np.ndarray) -> list[ChanceAt]:
    """Return the chance that silences of some lengths are held, each with its range."""
    rows, weight = drift.chances(np.asarray(beats, dtype=np.float64)), drift.weights
    found = []
    for length, row in zip(beats.tolist(), rows.T, strict=True):
        low, high = quantiles(row, weight, ENDS)
        found.append(ChanceAt(float(length), round(float(weight @ row), 4), (round(low, 4), round(high, 4))))
    return found


def _next(reach_beats: float, longest: float) -> int:
    """Return the length to try next: the first usual one from the reach on, no longer than twice what was tried."""
    most = min(max(2 * longest, 1.0), MOST_BEATS)
    usual = [length for length in LENGTHS if length <= most]
    return next((length for length in usual if length >= reach_beats), usual[-1])


def _list(ends: Range | None) -> list[float] | None:
    return list(ends) if ends else None
