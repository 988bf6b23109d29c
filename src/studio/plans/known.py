"""What the entries of a plan are by now: a ladder climbed so far, a piece, a drill as it was played."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from django.db.models import Count, Max

from giusto.drill import Drill, validate
from studio.accounts.models import Player
from studio.drills.models import OwnDrill
from studio.drills.shelf import shelf
from studio.exercises.models import Exercise
from studio.ladders.parts import Climbs
from studio.pieces.models import Piece
from studio.pieces.standing import PieceStanding, piece_standings
from studio.plans.models import Entry
from studio.takes.models import Take


@dataclass(frozen=True, slots=True)
class KnownDrill:
    """A drill that is played as it is: of the shelf, or the player's own."""

    name: str
    origin: str
    drill: Drill
    exercise: int | None
    takes: int = 0
    last: date | None = None


@dataclass(frozen=True, slots=True)
class Known:
    """All that some entries stand for: ladders by their exercise, drills by their slug or id."""

    climbs: Climbs
    pieces: dict[UUID, PieceStanding]
    drills: dict[str, KnownDrill]


def known_of(player: Player, entries: Iterable[Entry], climbs: Climbs, now: datetime) -> Known:
    """Return what entries stand for, in a bounded number of queries."""
    some = list(entries)
    pieces = Piece.objects.visible_to(player).kept().filter(pk__in={one.piece_id for one in some if one.piece_id})
    return Known(
        climbs=climbs,
        pieces={one.piece.pk: one for one in piece_standings(pieces.defer("score"), now, climbs)},
        drills=_drills(player, some),
    )


def _drills(player: Player, entries: list[Entry]) -> dict[str, KnownDrill]:
    own = OwnDrill.objects.visible_to(player).filter(pk__in={one.own_drill_id for one in entries if one.own_drill_id})
    found = {one.slug: (one.name, one.drill) for one in shelf().values() if one.slug in {one.slug for one in entries}}
    found |= {str(mine.pk): (mine.name, validate(mine.spec)) for mine in own}
    exercises = Exercise.objects.of(player)
    at = dict(exercises.filter(shelf_slug__in=found).values_list("shelf_slug", "pk"))
    at |= {str(drill): pk for drill, pk in exercises.filter(own_drill__in=own).values_list("own_drill", "pk")}
    played = _played(list(at.values()))
    none: tuple[int, date | None] = (0, None)
    return {
        origin: KnownDrill(name, origin, drill, at.get(origin), *played.get(at.get(origin), none))
        for origin, (name, drill) in found.items()
    }


def _played(exercises: list[int]) -> dict[int | None, tuple[int, date | None]]:
    """Return how often exercises were played, and when last."""
    takes = Take.objects.filter(exercise__in=exercises, deleted_at=None).values_list("exercise")
    return {pk: (count, last) for pk, count, last in takes.annotate(count=Count("pk"), last=Max("session__day"))}
