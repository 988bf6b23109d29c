"""The takes of a ladder's exercise, as attempts on its rungs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from datetime import timezone as dt_timezone
from typing import Any
from uuid import UUID

from django.urls import reverse
from django.utils import timezone

from giusto.errors import GiustoError
from giusto.hearing.inputs import Input
from giusto.practice.clean import in_the_end, is_clean, is_easy, margins_of
from giusto.practice.ladder import Attempt
from studio.ladders.models import Ladder, OtherAttempt
from studio.takes.models import Take

COLUMNS = (
    "pk",
    "exercise",
    "rung_key",
    "drill_name",
    "started_at",
    "ended_how",
    "said_clean",
    "session__is_off",
    "session__off_at",
    "reading__is_clean",
    "reading__margins",
    "reading__played_s",
    "reading__verdict",
)
SECONDS_A_MINUTE = 60


@dataclass(frozen=True, slots=True)
class Tried:
    """A take on a rung: what it counts as, and why.

    Attributes
    ----------
    take : UUID
    at : datetime
        By the player's clock.
    rung : int
    by_reading, said, clean : bool or None
        What its reading says, what its player says, what counts; a take that counts as None is asked about.
    easy : bool
    minutes : float
    off : bool
    verdict : str
        Code of ``advice/1``.
    """

    take: UUID
    at: datetime
    rung: int
    by_reading: bool | None
    said: bool | None
    clean: bool | None
    easy: bool
    minutes: float
    off: bool
    verdict: str

    @property
    def url(self) -> str:
        """The address of its reading."""
        return reverse("readings:reading", args=[self.take])


def tried_of(ladders: Iterable[Ladder]) -> dict[UUID, list[Tried]]:
    """Return the takes on the rungs of many ladders of one player, by ladder; one query."""
    by_exercise = {ladder.exercise_id: ladder for ladder in ladders}
    takes = Take.objects.filter(exercise__in=by_exercise, deleted_at=None).ended().exclude(reading=None)
    if not any(ladder.player.is_demo for ladder in by_exercise.values()):
        takes = takes.exclude(input=Input.SIMULATED)  # nobody climbs by what another plays
    found: defaultdict[UUID, list[Tried]] = defaultdict(list)
    for row in takes.order_by("started_at").values(*COLUMNS):
        ladder = by_exercise[row["exercise"]]
        if rung := ladder.core.rung_of(row["rung_key"], row["drill_name"]):
            found[ladder.pk].append(_tried(row, ladder, rung))
    return found


def attempts(some: Iterable[Tried]) -> Iterator[Attempt]:
    """Yield what counts of them, as the core takes it."""
    for one in some:
        if one.clean is not None:
            yield Attempt(one.at, one.rung, one.clean, one.minutes, one.off, one.easy)


def others_of(ladders: Iterable[Ladder]) -> dict[UUID, list[Attempt]]:
    """Return the attempts that were made elsewhere, by ladder; one query."""
    found: defaultdict[UUID, list[Attempt]] = defaultdict(list)
    for row in OtherAttempt.objects.filter(ladder__in=list(ladders)):
        zone = dt_timezone(timedelta(minutes=row.offset_minutes))
        found[row.ladder_id].append(Attempt(row.at.astimezone(zone), row.rung, row.is_clean, row.minutes, row.is_off))
    return found


def _tried(row: dict[str, Any], ladder: Ladder, rung: int) -> Tried:
    clean, easy = row["reading__is_clean"], False
    try:
        margins = margins_of(row["reading__margins"] or {})
        clean, easy = is_clean(margins, ladder.limits), is_easy(margins, ladder.limits)
    except GiustoError:  # read by a version that kept none: what it said of the take stands
        pass
    since = row["session__off_at"]
    is_whole = row["ended_how"] == Take.Ended.COMPLETE
    return Tried(
        take=row["pk"],
        at=timezone.localtime(row["started_at"]),
        rung=rung,
        by_reading=clean,
        said=row["said_clean"],
        clean=in_the_end(clean, is_whole=is_whole, said=row["said_clean"]),
        easy=easy,
        minutes=round((row["reading__played_s"] or 0.0) / SECONDS_A_MINUTE, 3),
        off=bool(row["session__is_off"]) and (since is None or row["started_at"] >= since),
        verdict=row["reading__verdict"] or "",
    )
