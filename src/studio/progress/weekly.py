"""Figures week by week, each with its range, and whether one changed by more than chance."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import groupby
from math import exp, log
from typing import Any

import numpy as np

from giusto.figures.tendency import SPREAD_OF_TAKES_PERCENT, TAKES_WIDER
from giusto.pooling import pool_each
from giusto.practice.course import Course, course
from giusto.practice.findings import INDEPENDENT_SHARE
from giusto.ranges import Range, sd_of
from giusto.tempo import slot_ms
from studio.accounts.models import Player
from studio.progress.held import own_takes

FEWEST_TAKES = 3  # ours: of a week; fewer are too few to say
SPREAD_OF_LOGS, SPREAD_OF_ALPHA, SPREAD_OF_PLACE_MS = 0.2, 0.15, 8.0  # ours, weak: how far takes differ in truth
LEAST_ALPHA_SD = 0.05
COLUMNS = (
    "started_at",
    "session__day",
    "tempo_bpm",
    "slots",
    "input",
    "device__browser",
    "drill_name",
    "reading__brief",
    "reading__heard_ms",
    "reading__heard_sd_ms",
)
Row = dict[str, Any]
Told = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Point:
    """A week of a figure: its value and range, None where its takes are too few."""

    monday: date
    takes: int
    value: float | None = None
    ci95: Range | None = None


@dataclass(frozen=True, slots=True)
class Figure:
    """A figure over weeks.

    Attributes
    ----------
    name, unit : str
    points : list of Point
        A week each, oldest first.
    course : Course or None
        From the first take to the latest; None where there are too few takes.
    is_size : bool
        Whether it is a size, whose course is one of logarithms.
    """

    key: str
    name: str
    unit: str
    points: list[Point]
    course: Course | None
    is_size: bool


@dataclass(frozen=True, slots=True)
class Kind:
    """How a figure is had of a take, and pooled."""

    key: str
    name: str
    unit: str
    told: Callable[[Row], Told | None]
    scale: float
    is_size: bool = False
    wider: float = 1.0


def rows_of(player: Player, start: date, end: date) -> list[Row]:
    """Return what the takes of some weeks tell, oldest first; one query."""
    takes = own_takes(player).filter(session__day__gte=start, session__day__lt=end).read()
    return list(takes.order_by("started_at").values(*COLUMNS))


def figures(rows: Sequence[Row], start: date, weeks: int) -> list[Figure]:
    """Return every figure week by week."""
    return [figure_of(kind, rows, start, weeks) for kind in KINDS]


def changes(rows: Sequence[Row]) -> dict[date, list[str]]:
    """Return the weeks in which another device or input came into play, or most takes were of another drill."""
    found: defaultdict[date, list[str]] = defaultdict(list)
    last: tuple[str, str] | None = None
    for row in rows:
        now = (row["input"], row["device__browser"] or "")
        if last and now != last:
            what = "another input" if now[0] != last[0] else "another device"
            if what not in found[_monday(row)]:
                found[_monday(row)].append(what)
        last = now
    for monday, name in _drills(rows):
        found[monday].append(f"mostly {name}")
    return dict(found)


def _drills(rows: Sequence[Row]) -> Iterator[tuple[date, str]]:
    """Yield the weeks in which the drill that was played most is another than in the week before."""
    before = ""
    for monday, some in groupby(
        rows, key=lambda row: row["session__day"] - timedelta(days=row["session__day"].weekday())
    ):
        name, _ = Counter(row["drill_name"] for row in some).most_common(1)[0]
        if before and name != before:
            yield monday, name or "another drill"
        before = name


def _monday(row: Row) -> date:
    day: date = row["session__day"]
    return day - timedelta(days=day.weekday())


def figure_of(kind: Kind, rows: Sequence[Row], start: date, weeks: int) -> Figure:
    """Return one figure week by week, and its course over all of them."""
    by_week: defaultdict[int, list[Told]] = defaultdict(list)
    told: list[tuple[float, float, float]] = []
    for row in rows:
        if one := kind.told(row):
            by_week[(row["session__day"] - start).days // 7].append(one)
            told.append((*one, row["started_at"].timestamp() / 86_400))
    points = _points(kind, [by_week[week] for week in range(weeks)], start)
    values, variances, at = zip(*told, strict=True) if told else ((), (), ())
    found = course(values, variances, at, scale=kind.scale)
    return Figure(kind.key, kind.name, kind.unit, points, found if isinstance(found, Course) else None, kind.is_size)


def _points(kind: Kind, told: Sequence[list[Told]], start: date) -> list[Point]:
    """Pool the takes of each week that has enough of them."""
    points = [Point(start + timedelta(weeks=week), len(some)) for week, some in enumerate(told)]
    enough = [week for week, some in enumerate(told) if len(some) >= FEWEST_TAKES]
    if not enough:
        return points
    table = np.full((2, len(enough), max(len(told[week]) for week in enough)), np.nan)
    for index, week in enumerate(enough):
        table[:, index, : len(told[week])] = np.array(told[week]).T
    pooled = pool_each(table[0], table[1], scale=kind.scale)
    for week, mean, low, high in zip(enough, *(ends.tolist() for ends in pooled), strict=True):
        value, ends = mean, (mean + kind.wider * (low - mean), mean + kind.wider * (high - mean))
        if kind.is_size:
            value, ends = exp(value), (exp(ends[0]), exp(ends[1]))
        points[week] = Point(points[week].monday, points[week].takes, value, ends)
    return points


def _figure(row: Row, name: str) -> dict[str, Any]:
    """Return a figure of a take's reading; empty where it has none."""
    return (row["reading__brief"] or {}).get(name) or {}


def _lean(row: Row) -> Told | None:
    lean = _figure(row, "tendency")
    return (lean["tempo_percent"], max(sd_of(lean["ci95_percent"]), 1e-3) ** 2) if lean else None


def _size(name: str) -> Callable[[Row], Told | None]:
    """Return how the size of clock or hand is had, as the log of its share of a slot in percent."""

    def told(row: Row) -> Told | None:
        parts = _figure(row, "variability")
        size, ends = parts.get(f"{name}_sd_ms"), parts.get(f"{name}_ci95_ms")
        if not size or not ends:
            return None
        low, high = (log(max(end, 1e-3)) for end in ends)
        of_slot = slot_ms(row["tempo_bpm"], row["slots"]) if name == "clock" else 100.0
        return log(100 * size / of_slot), max(sd_of((low, high)), 1e-3) ** 2

    return told


def _alpha(row: Row) -> Told | None:
    found = _figure(row, "correction")
    return (found["alpha"], max(sd_of(found["ci95"]), LEAST_ALPHA_SD) ** 2) if found else None


def _place(row: Row) -> Told | None:
    place, sd, n = row["reading__heard_ms"], row["reading__heard_sd_ms"], _figure(row, "heard").get("n")
    return (place, sd**2 / max(INDEPENDENT_SHARE * n, 1.0)) if place is not None and sd and n else None


KINDS = (
    Kind("lean", "Lean when alone", "%", _lean, SPREAD_OF_TAKES_PERCENT, wider=TAKES_WIDER),
    Kind("clock", "Spread of your clock", "% of a slot", _size("clock"), SPREAD_OF_LOGS, is_size=True),
    Kind("hand", "Spread of your hand", "ms", _size("motor"), SPREAD_OF_LOGS, is_size=True),
    Kind("alpha", "What a click takes back", "of the gap", _alpha, SPREAD_OF_ALPHA),
    Kind("place", "Your place with the click", "ms", _place, SPREAD_OF_PLACE_MS),
)


def mondays(start: date, weeks: int) -> Iterable[date]:
    """Return the first day of each week."""
    return (start + timedelta(weeks=week) for week in range(weeks))
