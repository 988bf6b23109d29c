"""Figures week by week, each with its range, and what changed beside them."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import groupby

import numpy as np

from giusto.pooling import pool_each
from giusto.practice.course import Course
from giusto.practice.over_takes.facts import TakeFacts
from giusto.practice.over_takes.figures import BY_WEEK, Followed, Told, course_of
from giusto.ranges import Range

FEWEST_A_WEEK = 3  # ours: takes; fewer are too few to say
DAYS_A_WEEK = 7


@dataclass(frozen=True, slots=True)
class WeekOf:
    """A week of a figure: its value and range, None where its takes are too few."""

    monday: date
    takes: int
    value: float | None = None
    ci95: Range | None = None


@dataclass(frozen=True, slots=True)
class OverWeeks:
    """A figure over weeks.

    Attributes
    ----------
    followed : Followed
    weeks : list of WeekOf
        Oldest first.
    course : Course or None
        From the first take to the latest; None where there are too few takes.
    """

    followed: Followed
    weeks: list[WeekOf]
    course: Course | None


def over_weeks(followed: Followed, takes: Sequence[TakeFacts], start: date, weeks: int) -> OverWeeks:
    """Return a figure week by week from a day on, and its course over all of them.

    Parameters
    ----------
    followed : Followed
    takes : sequence of TakeFacts
        Oldest first, with their figures.
    start : date
        The first day of the first week.
    weeks : int
    """
    by_week: defaultdict[int, list[Told]] = defaultdict(list)
    for take in takes:
        if one := followed.told(take):
            by_week[(take.day - start).days // DAYS_A_WEEK].append(one)
    found = course_of(followed, takes, figures=len(BY_WEEK))
    told = _weeks(followed, [by_week[week] for week in range(weeks)], start)
    return OverWeeks(followed, told, found if isinstance(found, Course) else None)


def _weeks(followed: Followed, told: Sequence[list[Told]], start: date) -> list[WeekOf]:
    """Pool the takes of each week that has enough of them."""
    found = [WeekOf(start + timedelta(weeks=week), len(some)) for week, some in enumerate(told)]
    enough = [week for week, some in enumerate(told) if len(some) >= FEWEST_A_WEEK]
    if not enough:
        return found
    table = np.full((2, len(enough), max(len(told[week]) for week in enough)), np.nan)
    for index, week in enumerate(enough):
        table[:, index, : len(told[week])] = np.array(told[week]).T
    *pooled, _ = pool_each(table[0], table[1], scale=followed.scale)
    for week, mean, low, high in zip(enough, *(ends.tolist() for ends in pooled), strict=True):
        ends = (followed.shown(mean + followed.wider * (end - mean)) for end in (low, high))
        low, high = ends
        found[week] = WeekOf(found[week].monday, found[week].takes, followed.shown(mean), (low, high))
    return found


def changes(takes: Sequence[TakeFacts]) -> dict[date, list[str]]:
    """Return, by the first day of their week, what else changed: ``input``, ``device``, or ``drill:`` and its name.

    Parameters
    ----------
    takes : sequence of TakeFacts
        Oldest first.
    """
    found: defaultdict[date, list[str]] = defaultdict(list)
    last: tuple[str, str] | None = None
    for take in takes:
        now = (take.input.value, take.browser)
        if last and now != last:
            what = "input" if now[0] != last[0] else "device"
            if what not in found[monday_of(take.day)]:
                found[monday_of(take.day)].append(what)
        last = now
    for monday, name in _drills(takes):
        found[monday].append(f"drill:{name}")
    return dict(found)


def monday_of(day: date) -> date:
    """Return the first day of a day's week."""
    return day - timedelta(days=day.weekday())


def _drills(takes: Sequence[TakeFacts]) -> Iterator[tuple[date, str]]:
    """Yield the weeks in which the drill that was played most is another than in the week before."""
    before = ""
    for monday, some in groupby(takes, key=lambda take: monday_of(take.day)):
        name, _ = Counter(take.name for take in some).most_common(1)[0]
        if before and name != before:
            yield monday, name
        before = name
