"""With the click and without: how much wider and how much off a player's notes go once it leaves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from math import exp, log, sqrt

import numpy as np

from giusto.missing import Missing
from giusto.pooling import Pooled, pool
from giusto.practice.course import Course, course
from giusto.ranges import Range, rounded

FEWEST_TAKES = 3  # ours: on either side
SPREAD_OF_TAKES = 0.2  # ours, weak: how far a player's log spreads differ from take to take


@dataclass(frozen=True, slots=True)
class Side:
    """The spread from note to note that a take shows, with the click or alone.

    Attributes
    ----------
    at : float
        When, in days.
    day : date
    is_alone : bool
    spread_percent : float
        Standard deviation of the intervals, of a slot.
    n : int
        Intervals that show it.
    """

    at: float
    day: date
    is_alone: bool
    spread_percent: float
    n: int


@dataclass(frozen=True, slots=True)
class Dependence:
    """How the two sides stand to one another over takes.

    Attributes
    ----------
    ratio : float
        Spread alone over spread with the click.
    ci95 : (float, float)
    more_than_chance : bool
        Whether that range leaves 1 out.
    with_takes, alone_takes : int
    course : Course or Missing
        Of the log of the spread alone over the usual one with the click: whether the takes alone come to
        stand like the others.
    """

    ratio: float
    ci95: Range
    more_than_chance: bool
    with_takes: int
    alone_takes: int
    course: Course | Missing


def dependence(sides: Sequence[Side]) -> Dependence | Missing:
    """Return how the spread alone stands to that with the click, over takes.

    Parameters
    ----------
    sides : sequence of Side

    Returns
    -------
    Dependence or Missing
        ``few-takes`` for fewer than three on either side.

    Notes
    -----
    Logs of the spreads are pooled on each side (``giusto.pooling``) with the variance 1 / (2 (n − 1)) of the log
    of a standard deviation; the two differ by independent errors.
    """
    alone, heard = ([side for side in sides if side.is_alone is is_alone and side.n > 1] for is_alone in (True, False))
    fewest = min(len(alone), len(heard))
    if fewest < FEWEST_TAKES:
        return Missing("dependence", "few-takes", fewest, FEWEST_TAKES)
    one, other = _pooled(alone), _pooled(heard)
    apart = one.mean - other.mean
    half = float(np.hypot(one.ci95[1] - one.ci95[0], other.ci95[1] - other.ci95[0])) / 2
    low, high = apart - half, apart + half
    logs = [log(side.spread_percent) - other.mean for side in alone]
    sds = [sqrt(_variance(side)) for side in alone]
    followed = course(logs, sds, [side.day for side in alone], at=[side.at for side in alone])
    ends = rounded((exp(low), exp(high)))
    return Dependence(round(exp(apart), 3), ends, low > 0 or high < 0, len(heard), len(alone), followed)


def _pooled(sides: Sequence[Side]) -> Pooled:
    logs = [log(side.spread_percent) for side in sides]
    return pool(logs, [_variance(side) for side in sides], scale=SPREAD_OF_TAKES)


def _variance(side: Side) -> float:
    return 1 / (2 * (side.n - 1))
