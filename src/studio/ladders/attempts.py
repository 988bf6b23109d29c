"""The takes of a ladder's exercise, as attempts on its rungs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from datetime import timezone as dt_timezone
from typing import Any
from uuid import UUID

from django.db import connection
from django.db.models import Model
from django.urls import reverse

from giusto.practice.clean import Limits
from giusto.practice.ladder import Attempt
from giusto.practice.over_takes.facts import TakeFacts
from studio.accounts.models import Player
from studio.exercises.models import Session
from studio.ladders.models import Ladder, OtherAttempt
from studio.takes.facts import facts_of
from studio.takes.models import Reading, Take, TakeQuerySet

# Whatever is written of a take, its reading or its day gives its row another place or another writer.
PRINTS = """
    select 'take', take.exercise_id::text, count(*), sum(hashtextextended(concat_ws('|', take.id, take.ctid, take.xmin,
        reading.ctid, reading.xmin, session.ctid, session.xmin), 0))
    from {take} take left join {reading} reading on reading.take_id = take.id
        left join {session} session on session.id = take.session_id
    where take.exercise_id = any(%s) and take.started_at < %s group by take.exercise_id
    union all select 'other', other.ladder_id::text, count(*), max(other.id)
    from {other} other where other.ladder_id = any(%s) group by other.ladder_id
"""


@dataclass(frozen=True, slots=True)
class Tried:
    """A take on a rung: the facts of it, and what it counts as by the ladder's limits.

    Attributes
    ----------
    facts : TakeFacts
    rung : int
    clean : bool or None
        What counts; None where it is open, or nobody can say.
    chance : float or None
        That it is clean; None where nobody can say, and then it is asked about.
    easy : bool
    """

    facts: TakeFacts
    rung: int
    clean: bool | None
    chance: float | None
    easy: bool

    @property
    def is_open(self) -> bool:
        """Whether it tells too little by itself, and counts by its chance."""
        return self.clean is None and self.chance is not None

    @property
    def is_asked(self) -> bool:
        """Whether its player is to say if it was clean."""
        return self.clean is None and self.chance is None

    @property
    def take(self) -> UUID:
        """Its number."""
        return self.facts.take

    @property
    def at(self) -> datetime:
        """When it began, by the player's clock."""
        return self.facts.at

    @property
    def day(self) -> date:
        """The day on which it began."""
        return self.facts.day

    @property
    def said(self) -> bool | None:
        """The player's word."""
        return self.facts.said

    @property
    def verdict(self) -> str:
        """Code of ``advice/2``."""
        return self.facts.verdict

    @property
    def url(self) -> str:
        """The address of its reading."""
        return reverse("readings:reading", args=[self.facts.take])


def tried_of(
    ladders: Iterable[Ladder], *, before: datetime | None = None, since: datetime | None = None
) -> dict[UUID, list[Tried]]:
    """Return the takes on the rungs of many ladders of one player, by ladder, oldest first; one query."""
    by_exercise = {ladder.exercise_id: ladder for ladder in ladders}
    found: defaultdict[UUID, list[Tried]] = defaultdict(list)
    if not by_exercise:
        return found
    takes = _takes(next(iter(by_exercise.values())).player).filter(exercise__in=by_exercise)
    if before:
        takes = takes.filter(started_at__lt=before)
    if since:
        takes = takes.filter(started_at__gte=since)
    for facts in facts_of(takes.order_by("started_at")):
        ladder = by_exercise[facts.exercise or 0]
        if rung := ladder.core.rung_of(facts.key, facts.name):
            limits = ladder.limits
            found[ladder.pk].append(_tried(facts, rung, limits))
    return found


def _tried(facts: TakeFacts, rung: int, limits: Limits) -> Tried:
    return Tried(facts, rung, facts.clean(limits), facts.chance(limits), facts.easy(limits))


def _takes(player: Player) -> TakeQuerySet:
    return Take.objects.telling_of(player).exclude(reading=None)


def attempts(some: Iterable[Tried]) -> Iterator[Attempt]:
    """Yield what counts of them, as the core takes it."""
    for one in some:
        if not one.is_asked:
            facts = one.facts
            yield Attempt(facts.at, one.rung, one.clean, facts.minutes, facts.is_off, one.easy, one.chance)


def others_of(ladders: Iterable[Ladder]) -> dict[UUID, list[Attempt]]:
    """Return the attempts that were made elsewhere, by ladder; one query."""
    found: defaultdict[UUID, list[Attempt]] = defaultdict(list)
    for row in OtherAttempt.objects.filter(ladder__in=list(ladders)):
        zone = dt_timezone(timedelta(minutes=row.offset_minutes))
        at = row.at.astimezone(zone)
        one = Attempt(at, row.rung, row.is_clean, row.minutes, row.is_off, chance=row.chance)
        found[row.ladder_id].append(one)
    return found


def prints_of(ladders: Iterable[Ladder], before: datetime) -> dict[UUID, tuple[object, ...]]:
    """Return what stands for all attempts before a moment, by ladder: another one once any of them is another."""
    some = list(ladders)
    tables: dict[str, type[Model]] = {"take": Take, "reading": Reading, "session": Session, "other": OtherAttempt}
    names = {name: model._meta.db_table for name, model in tables.items()}
    with connection.cursor() as cursor:
        asked: list[Any] = [[one.exercise_id for one in some], before, [one.pk for one in some]]
        cursor.execute(PRINTS.format(**names), asked)
        found = {(kind, whose): prints for kind, whose, *prints in cursor.fetchall()}
    return {
        one.pk: (*found.get(("take", str(one.exercise_id)), ()), *found.get(("other", str(one.pk)), ())) for one in some
    }
