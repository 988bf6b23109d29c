"""The names that a plan uses, and what each stands for: kept by id, so that renaming loses nothing."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from django.db import transaction

from giusto.plan.routine import Exercise as CoreExercise
from giusto.plan.routine import Routine as CoreRoutine
from studio.accounts.models import Player
from studio.drills.models import OwnDrill
from studio.drills.origin import REACH
from studio.drills.shelf import shelf
from studio.ladders.models import Ladder
from studio.pieces.models import Piece
from studio.plans.models import Entry, Routine


@dataclass(frozen=True, slots=True)
class Named:
    """A routine under the names that all of it has now; its entries by block and name; all that its player has."""

    core: CoreRoutine
    entries: dict[tuple[str, str], Entry]
    all: list[Entry]

    def entry(self, block: str, name: str) -> Entry | None:
        """Return what a slot of the plan is about; None for a block's own time."""
        return self.entries.get((block, name))


def named_now(routine: Routine) -> Named:
    """Return a routine under the names of now; two queries at most where all that it names is there."""
    every = entries_of(routine.player)
    known = {one.name.casefold(): one for one in every}
    exercises, entries = [], {}
    for one in routine.core.exercises:
        entry = known.get((one.ladder or one.name).casefold())
        now = _renamed(one, entry.called if entry else "")
        exercises.append(now)
        if entry:
            entries[now.block, now.name] = entry
    return Named(routine.core.model_copy(update={"exercises": tuple(exercises)}), entries, every)


def entries_of(player: Player) -> list[Entry]:
    """Return a player's entries; one that stands for nothing as yet takes what has its name by now."""
    found = list(Entry.objects.of(player).called())
    lost = [one for one in found if not one.called and one.name.casefold() != REACH]
    if lost:
        there = targets(player)
        for one in lost:
            if target := there.get(one.name.casefold()):
                one.stand_for(target)
    return found


def targets(player: Player) -> dict[str, Entry]:
    """Return all that a player may put into a plan, as entries that aren't kept, by name in small letters.

    Of two with one name a ladder comes before a piece, then reach, an own drill, a drill of the shelf.
    """
    ladders = Ladder.objects.visible_to(player).filter(exercise__whole=None, exercise__stretch=None).order_by("name")
    pieces = Piece.objects.visible_to(player).kept().order_by("name")
    own = OwnDrill.objects.visible_to(player).order_by("name")
    found: dict[str, Entry] = {}
    for one in (
        *(Entry(name=name, exercise_id=pk) for name, pk in ladders.values_list("name", "exercise_id")),
        *(Entry(name=name, piece_id=pk) for name, pk in pieces.values_list("name", "pk")),
        Entry(name=REACH.capitalize()),
        *(Entry(name=name, own_drill_id=pk) for name, pk in own.values_list("name", "pk")),
        *(Entry(name=built_in.name, slug=built_in.slug) for built_in in shelf().values()),
    ):
        found.setdefault(one.name.casefold(), one)
    return found


def names_offered(player: Player) -> list[str]:
    """Return the names of all that a player may put into a plan."""
    return [one.name for one in targets(player).values()]


@transaction.atomic
def bind(player: Player, names: Iterable[str], *, renames: bool = False) -> dict[str, Entry]:
    """Keep an entry for each name, of what has the name now; return them by name in small letters.

    A name that nothing has keeps what it stood for, or stands for nothing until something has it. What has an entry by
    an earlier name keeps it; it takes the new name only with ``renames``, for a routine that is kept whole: else the
    routine that is there would no longer find it.
    """
    there = targets(player)
    kept = list(Entry.objects.of(player))
    by_name = {one.name.casefold(): one for one in kept}
    by_target = {one.target: one for one in kept if one.target}
    found: dict[str, Entry] = {}
    for name in names:
        small = name.casefold()
        target = there.get(small)
        renamed = by_target.get(target.target) if target and target.target else None
        entry = by_name.get(small) or renamed or Entry(player=player)
        if entry is not renamed or renames:
            entry.name = name
        if target:
            entry.stand_for(target)
        entry.save()
        found[small] = by_name[small] = entry
    return found


def names_of(routine: CoreRoutine) -> list[str]:
    """Return the names that a routine plays by: that of its ladder, where an exercise has one."""
    return [one.ladder or one.name for one in routine.exercises]


def _renamed(one: CoreExercise, now: str) -> CoreExercise:
    if not now or (one.ladder or one.name) == now:
        return one
    if not one.ladder:
        return one.model_copy(update={"name": now})
    titled = {} if one.name.casefold() != one.ladder.casefold() else {"name": now}
    return one.model_copy(update={"ladder": now, **titled})
