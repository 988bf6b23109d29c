"""A day as it is gone through: how long it is, what an item took, when it is over, what is too easy or too hard."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import timedelta

from giusto.practice.ladder.rules.rule import BREAK_DAYS
from giusto.practice.over_takes.facts import TakeFacts

EASED = 2 / 3  # ours: after so long away the first day is so much of a usual one
TAKE_SHARE = 1 / 2  # ours: what is nearer to its minutes than that of a take is over
GAP = timedelta(minutes=5)  # ours: a longer one is not practice of the same thing
RECENT = 12  # ours: attempts that tell whether it is too easy or too hard
LATELY, OFTEN = 3, 2  # ours: of the last three takes, two that lean alike are worth a word
LEANING = {"rushed": -1, "dragged": 1}  # verdicts, and their sign: late is positive


@dataclass(frozen=True, slots=True)
class Spent:
    """What was played of an item on a day: how many takes, how long with the short gaps between them and without."""

    takes: int
    time: timedelta
    played: timedelta = timedelta()


def session_minutes(usual: int, *, away: int, chosen: int | None = None) -> int:
    """Return how long a day's session is: as chosen, else as usual, and less after a break.

    Parameters
    ----------
    usual : int
        Of the routine.
    away : int
        Full days without a take before.
    chosen : int or None
        What the player said of today.

    Examples
    --------
    >>> session_minutes(60, away=0), session_minutes(60, away=7), session_minutes(60, away=7, chosen=20)
    (60, 40, 20)
    """
    return chosen or (round(EASED * usual) if is_break(away) else usual)


def is_break(away: int) -> bool:
    """Return whether so many full days away are a break, after which a day eases back."""
    return away >= BREAK_DAYS


def spent(takes: Sequence[TakeFacts]) -> Spent:
    """Return how long an item was worked on: its takes, ascending, and the short gaps between them."""
    total = timedelta()
    for index, take in enumerate(takes):
        gap = take.at - takes[index - 1].end if index else timedelta()
        total += take.end - take.at + (gap if timedelta() < gap < GAP else timedelta())
    return Spent(len(takes), total, played(takes))


def played(takes: Iterable[TakeFacts]) -> timedelta:
    """Return how long was played: what each take's reading gives, so that a day, a week and a month agree."""
    return timedelta(seconds=sum(take.played_s for take in takes))


def is_over(found: Spent, *, minutes: float, repeats: int | None = None) -> bool:
    """Return whether an item is over: its minutes are played, or it was repeated so often.

    Parameters
    ----------
    found : Spent
    minutes : float
        Of its slot.
    repeats : int or None
        How often it is to be played; None where its minutes alone count.

    Notes
    -----
    What is nearer to the minutes than half a take is over.
    """
    if not found.takes:
        return False
    half_a_take = TAKE_SHARE * found.time / found.takes
    is_played = found.time >= timedelta(minutes=minutes) - half_a_take
    return is_played or (repeats is not None and found.takes >= repeats)


def takes_in(minutes: float, take: float) -> int:
    """Return how many takes it needs until an item is over by its minutes, at least one.

    Parameters
    ----------
    minutes : float
        Of its slot.
    take : float
        Minutes that one take lasts, above 0.

    Examples
    --------
    >>> takes_in(2, 1.83), takes_in(4, 1.0), takes_in(1, 3.0)
    (1, 4, 1)
    """
    return max(math.ceil(minutes / take - TAKE_SHARE), 1)


@dataclass(frozen=True, slots=True)
class Challenge:
    """Of the last attempts so many were clean: one rung up or down would bring it back into the band of challenge."""

    steps: int
    clean: int
    attempts: int


def challenge(clean: Sequence[float], *, low: float, high: float) -> Challenge | None:
    """Return whether the last attempts were clean more, or less, often than they should be; None where they were not.

    Parameters
    ----------
    clean : sequence of float
        How far each counts as clean, 0 to 1, oldest first.
    low, high : float
        Of the attempts, what should be clean: a share of one. Common practice: mostly right with a miss now and then.
    """
    recent = clean[-RECENT:]
    if len(recent) < RECENT:
        return None
    count = sum(recent)
    share = count / len(recent)
    steps = 1 if share > high else -1 if share < low else 0
    return Challenge(steps, round(count), len(recent)) if steps else None


def leaning_lately(verdicts: Iterable[str]) -> tuple[int, int]:
    """Return which way the last takes lean, late positive, and how many of them; (0, 0) where no two lean alike.

    Examples
    --------
    >>> leaning_lately(["held", "rushed", "rushed"]), leaning_lately(["rushed", "dragged", "held"])
    ((-1, 2), (0, 0))
    """
    counts = Counter(LEANING[verdict] for verdict in [*verdicts][-LATELY:] if verdict in LEANING)
    return next(((sign, count) for sign, count in counts.items() if count >= OFTEN), (0, 0))
