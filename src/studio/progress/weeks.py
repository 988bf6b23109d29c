"""The takes and silences of some weeks, and their figures as the pages of progress name them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from giusto.practice.course import Course
from giusto.practice.over_takes.facts import TakeFacts
from giusto.practice.over_takes.figures import BY_WEEK, Followed, needed
from giusto.practice.over_takes.weekly import OverWeeks, WeekOf, over_weeks
from giusto.practice.over_takes.weekly import changes as changes_of
from studio.accounts.models import Player
from studio.takes.facts import facts_of
from studio.takes.models import Take, TakeQuerySet

# What each figure is called, and in what it is told.
NAMES: dict[str, tuple[str, str]] = {
    "lean": ("Lean when alone", "%"),
    "clock": ("Spread of your clock", "% of a note’s length"),
    "hand": ("Spread of your hand", "ms"),
    "alpha": ("How much of a gap each click closes", "of 100"),
    "place": ("Your place with the click", "ms"),
}
CHANGES = {"input": "another input", "device": "another device"}


@dataclass(frozen=True, slots=True)
class Figure:
    """A figure over weeks, by its name and unit."""

    found: OverWeeks
    name: str
    unit: str

    @property
    def key(self) -> str:
        """What it is called in code."""
        return self.found.followed.key

    @property
    def is_size(self) -> bool:
        """Whether it is a size, whose course is one of logarithms."""
        return self.found.followed.is_size

    @property
    def points(self) -> list[WeekOf]:
        """Its weeks, oldest first."""
        return self.found.weeks

    @property
    def course(self) -> Course | None:
        """From the first take to the latest."""
        return self.found.course


def takes_between(player: Player, start: date, end: date) -> TakeQuerySet:
    """Return the takes that tell of a player, from a day up to another, that one not included."""
    return Take.objects.telling_of(player).filter(session__day__gte=start, session__day__lt=end)


def rows_of(player: Player, start: date, end: date, followed: Sequence[Followed] = BY_WEEK) -> list[TakeFacts]:
    """Return what the takes of some weeks tell, oldest first, with what is followed of them; one query."""
    return facts_of(takes_between(player, start, end).read().order_by("started_at"), figures=needed(followed))


def figure_of(followed: Followed, rows: Sequence[TakeFacts], start: date, weeks: int) -> Figure:
    """Return one figure week by week."""
    return Figure(over_weeks(followed, rows, start, weeks), *NAMES[followed.key])


def figures(rows: Sequence[TakeFacts], start: date, weeks: int) -> list[Figure]:
    """Return every figure week by week."""
    return [figure_of(one, rows, start, weeks) for one in BY_WEEK]


def changes(rows: Sequence[TakeFacts]) -> dict[date, list[str]]:
    """Return the weeks in which another device or input came into play, or most takes were of another drill."""
    return {monday: [_change(code) for code in codes] for monday, codes in changes_of(rows).items()}


def mondays(start: date, weeks: int) -> Iterable[date]:
    """Return the first day of each week."""
    return (start + timedelta(weeks=week) for week in range(weeks))


def _change(code: str) -> str:
    kind, _, name = code.partition(":")
    return CHANGES.get(kind) or f"mostly {name or 'another drill'}"
