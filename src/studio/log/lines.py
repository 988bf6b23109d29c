"""A line of the log: what was played, what came of it in a word, and a small thread; the lines of each day."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from itertools import groupby

from django.utils import timezone

from studio.sheet.words import NBSP, signed_ms
from studio.takes.models import Reading, Silence, Take
from studio.takes.thread import path_of
from studio.words import number

THREAD_W, THREAD_H = 40.0, 44.0
SIDES = {
    "dragged": "late",
    "slowed": "late",
    "after": "late",
    "rushed": "early",
    "quickened": "early",
    "before": "early",
}
OUTCOMES = {"held": "held", "dragged": "late", "rushed": "early"}
# What a verdict says in a word, where it is not told by silences or by the place.
WORDS = {
    "uneven": "early and late",
    "edge": "on the edge",
    "jumped": "left its place at once",
    "slipped": "a beat off",
    "together": "with the click",
    "kept": "tempo held",
    "slowed": "slowed down",
    "quickened": "became faster",
    "wandered": "wandered, came home",
    "crushed": "rhythm crushed",
    "stretched": "rhythm stretched",
    "too-few": "too few notes",
    "own-tempo": "a tempo of its own",
    "beat-off": "begun elsewhere in the bar",
    "not-this-drill": "not this drill",
    "other-part": "another figure",
}


@dataclass(frozen=True, slots=True)
class LogLine:
    """One take in the log: what came of it, and to which side."""

    take: Take
    outcome: str
    side: str
    thread: str


@dataclass(frozen=True, slots=True)
class LogDay:
    """The takes of a day, newest first, and how much was played on all of it."""

    day: date
    minutes: int
    lines: list[LogLine]


def days(takes: Iterable[Take], minutes: dict[date, int]) -> list[LogDay]:
    """Return the lines of a page of the log by their days."""
    by_day = groupby(takes, key=lambda take: timezone.localtime(take.started_at).date())
    return [LogDay(day, minutes.get(day, 0), [_line(take) for take in some]) for day, some in by_day]


def _line(take: Take) -> LogLine:
    reading = getattr(take, "reading", None)
    thread = path_of(reading.sketch, width=THREAD_W, height=THREAD_H) if reading and reading.sketch else ""
    return LogLine(take, outcome(reading, list(take.silences.all())), SIDES.get(_code(reading), ""), thread)


def _code(reading: Reading | None) -> str:
    return reading.verdict if reading else ""


def outcome(reading: Reading | None, silences: list[Silence]) -> str:
    """Return what came of a take, in a word."""
    if reading is None:
        return "being read"
    if reading.refusal_code:
        return "can’t be read"
    code = reading.verdict
    if code in OUTCOMES:
        return _of_silences(code, silences)
    if code in ("before", "together", "after") and reading.heard_ms is not None:
        return f"{signed_ms(reading.heard_ms)}{', even' if reading.is_clean else ''}"
    if code == "loose" and reading.heard_sd_ms is not None:
        return f"wide, {reading.heard_sd_ms:.0f}{NBSP}ms"
    return WORDS.get(code, "")


def _of_silences(code: str, silences: list[Silence]) -> str:
    """Return how many silences came out so: ``held both``, ``dragged in three of four``, ``dragged a little``."""
    told = [one.outcome for one in silences if one.outcome != "unreadable"]
    count, of = told.count(OUTCOMES[code]), len(told)
    verb = "held" if code == "held" else f"{code} in"
    if of <= 1:
        return code if count else f"{code} a little"
    if count == of:
        return f"{verb} {'both' if of == 2 else f'all {number(of)}'}"
    return f"{verb} {number(count)} of {number(of)}" if count > 1 or code == "held" else f"{code} a little"
