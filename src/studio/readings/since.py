"""Before and after: the first take of an exercise against the latest, and the course between them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import exp

from giusto.practice.course import Course
from giusto.practice.over_takes.facts import TakeFacts
from giusto.practice.over_takes.figures import SINCE_FIRST, Followed, course_of, needed
from studio.readings.change import Change, leaned, times
from studio.sheet.words import NBSP, lean_words
from studio.takes.facts import facts_of
from studio.takes.models import Take

MOST_TAKES = 200  # ours: the newest of an exercise
NAMES = {
    "lean": "Lean in the silence",
    "spread": "Spread with the click, of a note’s length",
    "clock": "Spread of your clock, of a note’s length",
}


@dataclass(frozen=True, slots=True)
class Since:
    """How many takes there are, and the figures that they tell of."""

    takes: int
    lines: list[Change]


def since_first(take: Take) -> Since | None:
    """Return how a take's exercise went, up to this take; None where there are too few takes."""
    if take.exercise_id is None:
        return None
    takes = Take.objects.filter(player=take.player_id, input=take.input, deleted_at=None, exercise=take.exercise_id)
    newest = takes.filter(started_at__lte=take.started_at).order_by("-started_at")[:MOST_TAKES]
    rows = facts_of(newest, figures=needed(SINCE_FIRST))[::-1]
    lines = list(_lines(rows))
    return Since(len(rows), lines) if lines else None


def _lines(rows: Sequence[TakeFacts]) -> Iterator[Change]:
    for followed in SINCE_FIRST:
        found = course_of(followed, rows, figures=len(SINCE_FIRST))
        if isinstance(found, Course) and not found.is_early:
            yield _line(followed, found)


def _line(followed: Followed, found: Course) -> Change:
    low, high = found.ci95
    if followed.is_size:
        first, latest = (f"{exp(value):.1f}{NBSP}%" for value in (found.first, found.latest))
        change = times(exp(found.change), exp(low), exp(high))
    else:
        first, latest = lean_words(found.first), lean_words(found.latest)
        change = leaned(found.change, low, high)
    return Change(NAMES[followed.key], first, latest, change, found.more_than_chance)
