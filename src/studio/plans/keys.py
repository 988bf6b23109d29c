"""Keys in turn: each key of an exercise is a part with takes, and with a ladder, of its own."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction

from giusto.drill import Drill, validate
from giusto.plan.parts import spelled
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.drills.models import OwnDrill
from studio.drills.shelf import shelf
from studio.exercises.actions import exercise_for
from studio.exercises.models import Exercise
from studio.ladders.models import Ladder
from studio.ladders.parts import split
from studio.plans.entries import named_now
from studio.plans.models import Entry, Routine
from studio.plans.policies import may_plan


@transaction.atomic
def make_keys(*, player: Player, routine: Routine) -> None:
    """Make the parts that a routine's keys need, so that a take in a key is one of that key; those there stay.

    Raises
    ------
    ClimbError
        Where the player would have too many ladders.
    """
    require(may_plan(player) and routine.player_id == player.pk)
    named = named_now(routine)
    for one in named.core.exercises:
        entry = named.entry(one.block, one.name)
        if one.keys and entry:
            _of_entry(player, entry, one.keys.all)


def _of_entry(player: Player, entry: Entry, keys: Sequence[str]) -> None:
    ladder = Ladder.objects.visible_to(player).filter(exercise=entry.exercise_id).select_related("exercise").first()
    if entry.exercise_id and ladder:
        if missing := _missing(ladder.exercise, keys):
            parts = ladder.exercise.parts.all()
            sections = list(dict.fromkeys(part.section for part in parts if part.section))
            split(player=player, ladder=ladder, hands=any(part.hand for part in parts), keys=missing, sections=sections)
    elif drill := _drill(player, entry):
        whole = exercise_for(player=player, drill=drill, origin=entry.slug or str(entry.own_drill_id))
        for key in _missing(whole, keys):
            part = Exercise(player=player, climbs=True, whole=whole, key=whole.key, music_key=key)
            part.name = f"{whole.name[: 116 - len(part.part_name)]}, {part.part_name}"
            part.save()


def _missing(whole: Exercise, keys: Sequence[str]) -> list[str]:
    there = [key for key in whole.parts.values_list("music_key", flat=True) if key]
    return [key for key in keys if spelled(key, there) not in there]


def _drill(player: Player, entry: Entry) -> Drill | None:
    if entry.slug in shelf():
        return shelf()[entry.slug].drill
    own = OwnDrill.objects.visible_to(player).filter(entries=entry).first()
    return validate(own.spec) if own else None
