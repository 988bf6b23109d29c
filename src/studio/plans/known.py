"""What the names in a routine stand for: a ladder, a piece, a drill, reach, or a time of the player's own."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, datetime

from django.db.models import Count, Max
from django.db.models.functions import Lower

from giusto.drill import Drill, validate
from studio.accounts.models import Player
from studio.drills.models import OwnDrill
from studio.drills.shelf import shelf
from studio.exercises.models import Exercise
from studio.ladders.models import Ladder
from studio.ladders.parts import parts_of
from studio.ladders.standing import Standing, standings
from studio.pieces.models import Piece
from studio.pieces.standing import PieceStanding, piece_standings
from studio.takes.models import Take

REACH = "reach"


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
    """All that some names of a routine stand for, by name in small letters."""

    ladders: dict[str, Standing] = field(default_factory=dict)
    parts: dict[int, list[Standing]] = field(default_factory=dict)
    pieces: dict[str, PieceStanding] = field(default_factory=dict)
    drills: dict[str, KnownDrill] = field(default_factory=dict)


def known_of(player: Player, names: Iterable[str], now: datetime) -> Known:
    """Return what names stand for, in a bounded number of queries."""
    wanted = {name.casefold() for name in names if name}
    if not wanted:
        return Known()
    lower = [name.lower() for name in wanted]
    ladders = Ladder.objects.visible_to(player).filter(exercise__whole=None).annotate(small=Lower("name"))
    climbed = standings(ladders.filter(small__in=lower).select_related("exercise", "player"), now)
    pieces = Piece.objects.visible_to(player).kept().annotate(small=Lower("name")).filter(small__in=lower)
    return Known(
        ladders={one.ladder.name.casefold(): one for one in climbed},
        parts=parts_of(player, [one.ladder.exercise_id for one in climbed], now),
        pieces={one.piece.name.casefold(): one for one in piece_standings(pieces.defer("score"), now)},
        drills=_drills(player, wanted),
    )


def all_names(player: Player) -> list[str]:
    """Return what a player may put into a routine by name: ladders, pieces, own drills, reach, the shelf."""
    ladders = Ladder.objects.visible_to(player).filter(exercise__whole=None, exercise__stretch=None)
    own = OwnDrill.objects.visible_to(player)
    pieces = Piece.objects.visible_to(player).kept()
    names = (name for rows in (ladders, pieces, own) for name in rows.order_by("name").values_list("name", flat=True))
    return list(dict.fromkeys([*names, "Reach", *(built_in.name for built_in in shelf().values())]))


def _drills(player: Player, wanted: set[str]) -> dict[str, KnownDrill]:
    built_in = {one.name.casefold(): one for one in shelf().values() if one.name.casefold() in wanted}
    own = {
        one.name.casefold(): one
        for one in OwnDrill.objects.visible_to(player).annotate(small=Lower("name")).filter(small__in=list(wanted))
    }
    exercises = Exercise.objects.of(player)
    slugs = dict(
        exercises.filter(shelf_slug__in=[one.slug for one in built_in.values()]).values_list("shelf_slug", "pk")
    )
    kept = dict(exercises.filter(own_drill__in=list(own.values())).values_list("own_drill", "pk"))
    played = _played([*slugs.values(), *kept.values()])
    none: tuple[int, date | None] = (0, None)
    found = {}
    for name, one in built_in.items():
        exercise = slugs.get(one.slug)
        found[name] = KnownDrill(one.name, one.slug, one.drill, exercise, *played.get(exercise, none))
    for name, mine in own.items():
        exercise = kept.get(mine.pk)
        drill = validate(mine.spec)
        found[name] = KnownDrill(mine.name, str(mine.pk), drill, exercise, *played.get(exercise, none))
    return found


def _played(exercises: list[int]) -> dict[int | None, tuple[int, date | None]]:
    """Return how often exercises were played, and when last."""
    takes = Take.objects.filter(exercise__in=exercises, deleted_at=None).values_list("exercise")
    return {pk: (count, last) for pk, count, last in takes.annotate(count=Count("pk"), last=Max("session__day"))}
