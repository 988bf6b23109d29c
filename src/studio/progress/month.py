"""A month on one page, as a teacher would want it: what was worked on, where it stands, what the measures say."""

from __future__ import annotations

from calendar import monthrange
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.db.models import Count, Max, Min, Q, Sum
from django.utils import timezone

from giusto.practice.over_takes.reaches import reach_at, tempi
from studio.accounts.looking import hides_words
from studio.accounts.models import Player
from studio.ladders.models import Ladder
from studio.ladders.parts import Climbs, climbs_of
from studio.ladders.words import asked, goal, value_word
from studio.pieces.models import Piece
from studio.pieces.standing import piece_standings
from studio.pieces.words import next_in
from studio.plans.models import Week
from studio.plans.weeks import minutes_by_day
from studio.progress.reaches import end_of
from studio.progress.weeks import figures, rows_of, takes_between
from studio.progress.words import course_words
from studio.reach.tested import silences_until
from studio.reach.words import held_words, range_words

MOST_WORKED, MOST_SAID, MOST_NOTES = 14, 3, 5


@dataclass(frozen=True, slots=True)
class Worked:
    """An exercise of the month: how much, from which tempo to which, where it stands, what comes next."""

    name: str
    takes: int
    minutes: int
    tempos: str
    stands: str
    next: str


@dataclass(frozen=True, slots=True)
class Month:
    """A month.

    Attributes
    ----------
    first : date
    player : Player
    days : list of (date, int)
        Each day with its minutes.
    minutes, takes, days_played : int
    worked : list of Worked
        Most played first.
    more : int
        Exercises beyond those.
    says : list of str
        The two or three things that the measures say.
    goals : list of str
    notes : list of (date, str)
    """

    first: date
    player: Player
    days: list[tuple[date, int]]
    minutes: int
    takes: int
    days_played: int
    worked: list[Worked]
    more: int
    says: list[str]
    goals: list[str]
    notes: list[tuple[date, str]]

    @property
    def before(self) -> date:
        """The month before."""
        return (self.first - timedelta(days=1)).replace(day=1)

    @property
    def after(self) -> date:
        """The month after."""
        return (self.first + timedelta(days=32)).replace(day=1)


def month_of(player: Player, first: date) -> Month:
    """Return a month, in a bounded number of queries."""
    end = first + timedelta(days=monthrange(first.year, first.month)[1])
    played = minutes_by_day(player, first, end)
    takes = takes_between(player, first, end)
    rows = list(
        takes.exclude(exercise=None)
        .values("exercise", "exercise__name")
        .annotate(count=Count("pk"), seconds=Sum("reading__played_s"), low=Min("tempo_bpm"), high=Max("tempo_bpm"))
        .order_by("-seconds", "exercise__name")
    )
    climbs = climbs_of(player, timezone.now())
    worked = _worked(climbs, rows[:MOST_WORKED])
    noted = takes.none() if hides_words() else takes.filter(~Q(note=""))
    notes = noted.order_by("started_at").values_list("session__day", "note")
    return Month(
        first=first,
        player=player,
        days=[(first + timedelta(days=n), played.get(first + timedelta(days=n), 0)) for n in range((end - first).days)],
        minutes=sum(played.values()),
        takes=takes.count(),
        days_played=sum(minutes > 0 for minutes in played.values()),
        worked=worked,
        more=max(len(rows) - MOST_WORKED, 0),
        says=_says(player, first, end),
        goals=_goals(player, first, end, climbs),
        notes=list(notes[:MOST_NOTES]),
    )


def _worked(climbs: Climbs, rows: Sequence[Any]) -> list[Worked]:
    found = []
    for row in rows:
        one = climbs.by_exercise.get(row["exercise"])
        low, high = row["low"], row["high"]
        secure = one.step.secure if one else 0
        stands = f"{value_word(one.ladder.core, secure)} held" if one and secure else "nothing held yet" if one else ""
        found.append(
            Worked(
                name=row["exercise__name"] or "A drill",
                takes=row["count"],
                minutes=round((row["seconds"] or 0.0) / 60),
                tempos=f"{low:g}" if low == high else f"{low:g} to {high:g}",
                stands=stands,
                next=asked(one.ladder.core, one.step) if one else "",
            )
        )
    return found


def _says(player: Player, first: date, end: date) -> list[str]:
    """Return what the month's measures say: what is held, then each figure that changed by more than chance."""
    rows = rows_of(player, first, end)
    found = [_held(player, end)]
    told = figures(rows, first, ((end - first).days + 6) // 7)
    sure = [figure for figure in told if figure.course and figure.course.more_than_chance]
    usual = [figure for figure in told if figure.key == "lean"]
    told = [*sure, *(one for one in usual if one not in sure)]
    found += [f"{figure.name}: {course_words(figure)}" for figure in told]
    return found[:MOST_SAID]


def _held(player: Player, end: date) -> str:
    """Return how long a silence is held at the end of the month, or now."""
    moment = min(end_of(end - timedelta(days=1)), timezone.now())
    known = silences_until(player, moment)
    at = next((reach_at(known, bpm, moment) for bpm in tempi(known)[:1]), None)
    return f"{held_words(at)} ({range_words(at.reach)})." if at else f"{held_words(at)}."


def _goals(player: Player, first: date, end: date, climbs: Climbs) -> list[str]:
    """Return the next goals: what the player wrote for their weeks, ladders under way, pieces."""
    today = timezone.localdate()
    weeks = Week.objects.filter(player=player, monday__gte=min(today, end) - timedelta(days=7)).exclude(goal="")
    found = [f"{week.monday:%-d %B}: {week.goal}" for week in weeks[:2]]
    pieces = Piece.objects.visible_to(player).kept().defer("score")
    for standing in piece_standings(pieces, timezone.now(), climbs)[:2]:
        following = next_in(standing)
        what = following.what if following else "Secure"
        found.append(f"{standing.piece.name}, to {standing.piece.goal_bpm:g}. {what}.")
    recent = (
        Ladder.objects.visible_to(player)
        .filter(exercise__takes__session__day__gte=first, exercise__stretch=None, exercise__whole=None)
        .distinct()
        .values_list("exercise", flat=True)
    )
    climbed = [one for one in map(climbs.by_exercise.__getitem__, recent) if not one.step.done]
    found += [f"{one.ladder.name}: {goal(one)}" for one in climbed[:3]]
    return found
