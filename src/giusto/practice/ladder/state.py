"""Where on a ladder a player stands while attempts are counted: a frozen state, and what its ladder sets."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import date
from enum import StrEnum
from typing import Any

from giusto.arrays import FloatArray
from giusto.practice.ladder.attempts_csv import Attempt

REMEMBERED = 2  # ours: the last attempts, of which a double step is judged


class Why(StrEnum):
    """Why a rung is asked for."""

    FIRST = "first"
    STREAK = "streak"
    TOTAL = "total"
    FELL = "fell"
    MOVED = "moved"
    NEXT_DAY = "next day"
    BREAK = "break"
    RETURNING = "returning"
    STAY = "stay"
    STAYED = "stayed"
    EDGE = "edge"
    OVERNIGHT = "overnight"
    WEEK_REACHED = "week reached"
    BAND = "band"
    OFF_DAY = "off day"
    DONE = "done"


# Said until the next attempt.
ONCE = frozenset({Why.FIRST, Why.MOVED, Why.NEXT_DAY, Why.BREAK, Why.OVERNIGHT, Why.FELL})


@dataclass(frozen=True, slots=True)
class FoundEdge:
    """Where an attempt wasn't clean, and from which day on one may rise again."""

    rung: int
    day: date
    until: date


@dataclass(frozen=True, slots=True)
class Terms:
    """What a ladder sets beside its rule.

    Attributes
    ----------
    values : tuple of float or None
        What varies, rung by rung.
    fall_after : int
        Attempts in a row that aren't clean before a fall; 0 for never.
    fall_by : int
        How many rungs.
    back : int
        How many rungs a new day begins below where the last one ended.
    """

    values: tuple[float | None, ...]
    fall_after: int = 1
    fall_by: int = 1
    back: int = 1

    @property
    def last(self) -> int:
        """The last rung."""
        return len(self.values)


@dataclass(frozen=True, slots=True)
class State:
    """Where a player stands.

    Attributes
    ----------
    rung : int
        From 1.
    streak, misses : int
        Attempts in a row on it since arriving that were clean, and that were not.
    chances : int
        Attempts since arriving whose chance of being clean is known.
    cleans : float
        Sum of those chances.
    secure : int
        The highest rung passed, 0 if none; ``passed`` alone changes it, and never to less.
    ended : int
        The rung where the last day ended.
    why : Why
    done : bool
    day : date or None
        Of the last attempt, or of the moment that is asked about.
    is_off : bool
        Whether that day is an off day by now.
    away : int
        Full days without an attempt before it.
    target : int
        Where a return leads, 0 where there is none.
    kept : Why or None
        Why a rung that was passed is not left today.
    minutes : float
        Clean ones on the rung, under *stay*.
    stayed : bool
        Whether the rung was passed today and is kept for the rest of the day.
    edge : FoundEdge or None
        While its nights must pass.
    week, week_top : (int, int), int
        The ISO week, and the highest rung that it allows.
    totals : tuple of int
        Clean attempts on each rung, ever; under *total*.
    belief : array of float or None
        What attempts tell of the chance on each rung; under *band*.
    last : tuple of Attempt
        The newest, at most two.
    """

    rung: int = 1
    streak: int = 0
    misses: int = 0
    chances: int = 0
    cleans: float = 0.0
    secure: int = 0
    ended: int = 1
    why: Why = Why.FIRST
    done: bool = False
    day: date | None = None
    is_off: bool = False
    away: int = 0
    target: int = 0
    kept: Why | None = None
    minutes: float = 0.0
    stayed: bool = False
    edge: FoundEdge | None = None
    week: tuple[int, int] = (0, 0)
    week_top: int = 0
    totals: tuple[int, ...] = ()
    belief: FloatArray | None = field(default=None, compare=False)
    last: tuple[Attempt, ...] = ()

    def but(self, **changes: Any) -> State:
        """Return the state with some of it changed."""
        return replace(self, **changes)

    def at(self, rung: int, **changes: Any) -> State:
        """Return the state on a rung anew: what was counted on the one before is over."""
        return replace(self, rung=rung, streak=0, misses=0, chances=0, cleans=0.0, minutes=0.0, kept=None, **changes)

    def passed(self) -> State:
        """Return the state with its rung secure."""
        return replace(self, secure=max(self.secure, self.rung))
