"""Figures week by week, each with its range, and whether one changed by more than chance."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from math import exp, log
from typing import Any

from giusto.figures.tendency import SPREAD_OF_TAKES_PERCENT, TAKES_WIDER
from giusto.pooling import pool
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
    "reading__spec__tendency__tempo_percent",
    "reading__spec__tendency__ci95_percent",
    "reading__spec__variability__clock_sd_ms",
    "reading__spec__variability__clock_ci95_ms",
    "reading__spec__variability__motor_sd_ms",
    "reading__spec__variability__motor_ci95_ms",
    "reading__spec__correction__alpha",
    "reading__spec__correction__ci95",
    "reading__spec__heard__n",
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
    """Return the weeks in which another device, browser or input came into play."""
    found: defaultdict[date, list[str]] = defaultdict(list)
    last: tuple[str, str] | None = None
    for row in rows:
        now = (row["input"], row["device__browser"] or "")
        if last and now != last:
            what = "another input" if now[0] != last[0] else "another device"
            monday = row["session__day"] - timedelta(days=row["session__day"].weekday())
            if what not in found[monday]:
                found[monday].append(what)
        last = now
    return dict(found)


def figure_of(kind: Kind, rows: Sequence[Row], start: date, weeks: int) -> Figure:
    """Return one figure week by week, and its course over all of them."""
    by_week: defaultdict[int, list[Told]] = defaultdict(list)
    told: list[tuple[float, float, float]] = []
    for row in rows:
        if one := kind.told(row):
            by_week[(row["session__day"] - start).days // 7].append(one)
            told.append((*one, row["started_at"].timestamp() / 86_400))
    points = [_point(kind, start + timedelta(weeks=week), by_week[week]) for week in range(weeks)]
    values, variances, at = zip(*told, strict=True) if told else ((), (), ())
    found = course(values, variances, at, scale=kind.scale)
    return Figure(kind.key, kind.name, kind.unit, points, found if isinstance(found, Course) else None, kind.is_size)


def _point(kind: Kind, monday: date, told: list[Told]) -> Point:
    if len(told) < FEWEST_TAKES:
        return Point(monday, len(told))
    found = pool(*zip(*told, strict=True), scale=kind.scale)
    low, high = (found.mean + kind.wider * (end - found.mean) for end in found.ci95)
    value, ends = found.mean, (low, high)
    if kind.is_size:
        value, ends = exp(value), (exp(low), exp(high))
    return Point(monday, len(told), value, ends)


def _lean(row: Row) -> Told | None:
    ends = row["reading__spec__tendency__ci95_percent"]
    value = row["reading__spec__tendency__tempo_percent"]
    return (value, max(sd_of(ends), 1e-3) ** 2) if ends and value is not None else None


def _size(name: str) -> Callable[[Row], Told | None]:
    """Return how the size of clock or hand is had, as the log of its share of a slot in percent."""

    def told(row: Row) -> Told | None:
        size, ends = (
            row[f"reading__spec__variability__{name}_sd_ms"],
            row[f"reading__spec__variability__{name}_ci95_ms"],
        )
        if not size or not ends:
            return None
        low, high = (log(max(end, 1e-3)) for end in ends)
        of_slot = slot_ms(row["tempo_bpm"], row["slots"]) if name == "clock" else 100.0
        return log(100 * size / of_slot), max(sd_of((low, high)), 1e-3) ** 2

    return told


def _alpha(row: Row) -> Told | None:
    value, ends = row["reading__spec__correction__alpha"], row["reading__spec__correction__ci95"]
    return (value, max(sd_of(ends), LEAST_ALPHA_SD) ** 2) if ends and value is not None else None


def _place(row: Row) -> Told | None:
    place, sd, n = (row[name] for name in ("reading__heard_ms", "reading__heard_sd_ms", "reading__spec__heard__n"))
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
