"""What the entries of a plan are by now: a ladder climbed so far, a piece, a drill as it was played."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from django.db.models import Count, Max, Q

from giusto.drill import Drill, validate
from giusto.practice.ceiling import Working
from studio.accounts.models import Player
from studio.drills.models import OwnDrill
from studio.drills.shelf import shelf
from studio.exercises.models import Exercise
from studio.ladders.parts import Climbs
from studio.pieces.models import Piece
from studio.pieces.standing import PieceStanding, piece_standings
from studio.plans.models import Entry
from studio.takes.ceilings import workings_of
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
    working: Working | None = None
    wrote: str = ""


@dataclass(frozen=True, slots=True)
class Known:
    """All that some entries stand for: ladders by their exercise, drills by their slug or id."""

    climbs: Climbs
    pieces: dict[UUID, PieceStanding]
    drills: dict[tuple[str, str], KnownDrill]

    def drill(self, entry: Entry, key: str) -> KnownDrill | None:
        """Return the drill that an entry stands for, in a key where takes of it have keys."""
        of = entry.slug or str(entry.own_drill_id)
        return self.drills.get((of, key.casefold())) or self.drills.get((of, ""))


def known_of(player: Player, entries: Iterable[Entry], climbs: Climbs, now: datetime) -> Known:
    """Return what entries stand for, in a bounded number of queries."""
    some = list(entries)
    pieces = Piece.objects.visible_to(player).kept().filter(pk__in={one.piece_id for one in some if one.piece_id})
    return Known(
        climbs=climbs,
        pieces={one.piece.pk: one for one in piece_standings(pieces.defer("score"), now, climbs)},
        drills=_drills(player, some),
    )


def _drills(player: Player, entries: list[Entry]) -> dict[tuple[str, str], KnownDrill]:
    """Return drills by slug or id, and by key: ``""`` for the drill in no key."""
    own = OwnDrill.objects.visible_to(player).filter(pk__in={one.own_drill_id for one in entries if one.own_drill_id})
    named = {one.slug: (one.name, one.drill) for one in shelf().values() if one.slug in {one.slug for one in entries}}
    named |= {str(mine.pk): (mine.name, validate(mine.spec)) for mine in own}
    is_it = Q(shelf_slug__in=[*named]) | Q(own_drill__in=own)
    is_part = Q(whole__shelf_slug__in=[*named]) | Q(whole__own_drill__in=own)
    exercises = list(Exercise.objects.of(player).filter(is_it | is_part, ladders=None).select_related("whole"))
    found = {(of, ""): KnownDrill(name, of, drill, None) for of, (name, drill) in named.items()}
    played = _played([one.pk for one in exercises])
    workings = workings_of(player, [one.pk for one in exercises]) if exercises else {}
    for one in exercises:
        whole = one.whole or one
        of = whole.shelf_slug or str(whole.own_drill_id)
        name, drill = named[of]
        name, origin = (one.name, one.word) if one.whole else (name, of)
        working = workings.get(one.pk)
        if working:
            drill = drill.model_copy(update={"tempo": drill.tempo.model_copy(update={"bpm": float(working.bpm)})})
        count, last = played.get(one.pk, (0, None))
        found[of, one.music_key.casefold()] = KnownDrill(
            name, origin, drill, one.pk, count, last, working, one.next_time
        )
    return found


def _played(exercises: list[int]) -> dict[int, tuple[int, date | None]]:
    """Return how often exercises were played, and when last."""
    takes = Take.objects.filter(exercise__in=exercises, deleted_at=None).values_list("exercise")
    return {pk: (count, last) for pk, count, last in takes.annotate(count=Count("pk"), last=Max("session__day"))}
