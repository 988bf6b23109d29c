"""All that changes a player's ladders: each an action, whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta
from itertools import count
from typing import Any

from django.db import transaction
from django.utils import timezone

from giusto.practice.ladder import Attempt
from giusto.practice.ladder import Ladder as CoreLadder
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.exercises.models import Exercise
from studio.ladders.models import LIMIT_COLUMNS, Ladder, OtherAttempt, limits_of
from studio.ladders.policies import may_change, may_climb

MAX_LADDERS = 500  # ours: a page of them still answers at once


class ClimbError(ValueError):
    """A ladder can't be had as it was asked; the text is for its player."""


@transaction.atomic
def start_ladder(*, player: Player, ladder: CoreLadder, name: str = "", slug: str = "", **limits: Any) -> Ladder:
    """Start a ladder with an exercise of its own: its takes are those that are played from it.

    Raises
    ------
    ClimbError
        Where the player has too many.
    """
    require(may_climb(player))
    refuse_too_many(player)
    name = name or ladder.name or "A ladder"
    exercise = Exercise.objects.create(player=player, climbs=True, name=name)
    return Ladder.objects.create(player=player, exercise=exercise, name=name, slug=slug, spec=ladder.plain(), **limits)


@transaction.atomic
def climb_exercise(*, player: Player, exercise: Exercise, ladder: CoreLadder) -> Ladder:
    """Set a ladder against an exercise that was played before: what was played counts. One that is there stays."""
    require(may_climb(player) and exercise.player_id == player.pk)
    there = Ladder.objects.visible_to(player).filter(exercise=exercise).first()
    if there:
        return there
    refuse_too_many(player)
    name = exercise.name or ladder.name or "A ladder"
    return Ladder.objects.create(player=player, exercise=exercise, name=name, spec=ladder.plain())


@transaction.atomic
def copy_ladder(*, player: Player, ladder: Ladder) -> Ladder:
    """Start a ladder like another from the beginning: each key, hand or instrument has its own.

    Raises
    ------
    ClimbError
        Where the player has too many.
    """
    require(may_change(player, ladder))
    copied = start_ladder(player=player, ladder=ladder.core, name=free_name(player, ladder.name))
    copied.spread_percent, copied.missed_percent = ladder.spread_percent, ladder.missed_percent
    for name, value in limits_of(ladder).items():
        setattr(copied, name, value)
    copied.save(update_fields=LIMIT_COLUMNS)
    return copied


def free_name(player: Player, name: str) -> str:
    """Return a name with the first number that makes it another than the player's ladders have."""
    taken = {other.casefold() for other in Ladder.objects.visible_to(player).values_list("name", flat=True)}
    numbered = (f"{name[:112]} {number}" for number in count(2))
    return next(free for free in numbered if free.casefold() not in taken)


@transaction.atomic
def change_ladder(*, player: Player, ladder: Ladder, made: CoreLadder, **fields: Any) -> Ladder:
    """Change rungs, school, limits or name; every attempt stays, and is replayed."""
    require(may_change(player, ladder))
    for name, value in {**fields, "spec": made.plain()}.items():
        setattr(ladder, name, value)
    ladder.save(update_fields=[*fields, "spec", "changed_at"])
    return ladder


@transaction.atomic
def delete_ladder(*, player: Player, ladder: Ladder) -> None:
    """Take a ladder down; its takes stay, and it can be set up again."""
    require(may_change(player, ladder))
    ladder.deleted_at = timezone.now()
    ladder.save(update_fields=["deleted_at"])


@transaction.atomic
def restore_ladder(*, player: Player, ladder: Ladder) -> Ladder:
    """Undo the deletion of a ladder; where another stands in its place meanwhile, that one stays."""
    require(may_change(player, ladder))
    there = Ladder.objects.visible_to(player).filter(exercise=ladder.exercise_id).first()
    if there:
        return there
    ladder.deleted_at = None
    ladder.save(update_fields=["deleted_at"])
    return ladder


@transaction.atomic
def keep_attempts(*, player: Player, ladder: Ladder, attempts: Sequence[Attempt]) -> int:
    """Keep attempts that were made elsewhere; those that are here already stay. Return how many are new."""
    require(may_change(player, ladder))
    before = ladder.others.count()
    OtherAttempt.objects.bulk_create(
        (
            OtherAttempt(
                ladder=ladder,
                at=one.at,
                offset_minutes=round((one.at.utcoffset() or timedelta()) / timedelta(minutes=1)),
                rung=one.rung,
                is_clean=one.clean,
                chance=one.chance,
                minutes=one.minutes,
                is_off=one.off,
            )
            for one in attempts
        ),
        ignore_conflicts=True,
    )
    return ladder.others.count() - before


@transaction.atomic
def forget_attempts(*, player: Player, ladder: Ladder) -> None:
    """Forget the attempts of a ladder that were made elsewhere."""
    require(may_change(player, ladder))
    ladder.others.all().delete()


def refuse_too_many(player: Player, more: int = 1) -> None:
    """Refuse ladders beyond what a page of them can show.

    Raises
    ------
    ClimbError
    """
    if Ladder.objects.visible_to(player).count() + more > MAX_LADDERS:
        raise ClimbError(f"There would be more than {MAX_LADDERS} ladders. Take one down first.")
