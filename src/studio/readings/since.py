"""Before and after: the first take of an exercise against the latest, and the course between them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import exp, log
from typing import Any

from giusto.figures.tendency import SPREAD_OF_TAKES_PERCENT
from giusto.practice.course import Course, course
from giusto.practice.findings import INDEPENDENT_SHARE
from giusto.ranges import sd_of
from giusto.tempo import slot_ms
from studio.readings.change import Change, points, times
from studio.sheet.words import NBSP, lean_words
from studio.takes.models import Take

MOST_TAKES = 200  # ours: the newest of an exercise
SPREAD_OF_LOGS = 0.2  # ours, weak: how far the log of a spread differs from take to take
SECONDS_A_DAY = 86_400
COLUMNS = (
    "started_at",
    "tempo_bpm",
    "slots",
    "reading__brief__tendency",
    "reading__brief__heard",
    "reading__brief__variability",
)


@dataclass(frozen=True, slots=True)
class Since:
    """How many takes there are, and the figures that they tell of."""

    takes: int
    lines: list[Change]


@dataclass(frozen=True, slots=True)
class _Point:
    """What a take gives of a figure: when, what, and its variance; sizes as logarithms."""

    day: float
    value: float
    variance: float


def since_first(take: Take) -> Since | None:
    """Return how a take's exercise went, up to this take; None where there are too few takes."""
    if take.exercise_id is None:
        return None
    takes = Take.objects.filter(player=take.player_id, input=take.input, deleted_at=None, exercise=take.exercise_id)
    rows = list(takes.filter(started_at__lte=take.started_at).order_by("-started_at").values(*COLUMNS)[:MOST_TAKES])
    lines = list(_lines(rows[::-1]))
    return Since(len(rows), lines) if lines else None


def _lines(rows: list[dict[str, Any]]) -> Iterator[Change]:
    for name, told, scale, is_size in (
        ("Lean in the silence", list(_leans(rows)), SPREAD_OF_TAKES_PERCENT, False),
        ("Spread with the click, of a slot", list(_spreads(rows)), SPREAD_OF_LOGS, True),
        ("Spread of your clock, of a slot", list(_clocks(rows)), SPREAD_OF_LOGS, True),
    ):
        found = course(
            [point.value for point in told],
            [point.variance for point in told],
            [point.day for point in told],
            scale=scale,
        )
        if isinstance(found, Course):
            yield _line(name, found, is_size=is_size)


def _line(name: str, found: Course, *, is_size: bool) -> Change:
    low, high = found.ci95
    if is_size:
        first, latest = (f"{exp(value):.1f}{NBSP}%" for value in (found.first, found.latest))
        change = times(exp(found.change), exp(low), exp(high))
    else:
        first, latest = lean_words(found.first), lean_words(found.latest)
        change = points(found.change, low, high)
    return Change(name, first, latest, change, found.more_than_chance)


def _leans(rows: list[dict[str, Any]]) -> Iterator[_Point]:
    for row in rows:
        if lean := row["reading__brief__tendency"]:
            low, high = lean["ci95_percent"]
            yield _Point(_day(row), lean["tempo_percent"], max(sd_of((low, high)), 1e-3) ** 2)


def _spreads(rows: list[dict[str, Any]]) -> Iterator[_Point]:
    for row in rows:
        heard = row["reading__brief__heard"] or {}
        independent = INDEPENDENT_SHARE * heard.get("n", 0)
        if heard.get("sd_ms") and independent > 2:
            yield _Point(_day(row), _log_of_slot(heard["sd_ms"], row), 1 / (2 * (independent - 1)))


def _clocks(rows: list[dict[str, Any]]) -> Iterator[_Point]:
    for row in rows:
        parts = row["reading__brief__variability"]
        if parts and parts["clock_sd_ms"]:
            low, high = (log(max(end, 1e-3)) for end in parts["clock_ci95_ms"])
            yield _Point(_day(row), _log_of_slot(parts["clock_sd_ms"], row), max(sd_of((low, high)), 1e-3) ** 2)


def _log_of_slot(size_ms: float, row: dict[str, Any]) -> float:
    return log(100 * size_ms / slot_ms(row["tempo_bpm"], row["slots"]))


def _day(row: dict[str, Any]) -> float:
    return float(row["started_at"].timestamp()) / SECONDS_A_DAY
