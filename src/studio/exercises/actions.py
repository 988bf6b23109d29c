"""Finding, or making, what a take belongs to."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone

from giusto.drill import Drill, validate
from giusto.drill.identity import drill_key, exercise_key
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.drills.models import OwnDrill
from studio.drills.origin import REACH
from studio.drills.policies import may_keep
from studio.drills.shelf import shelf, slug_of
from studio.exercises.models import Exercise, Session
from studio.ids import uuid_of

NEXT_TIME_LENGTH = Exercise._meta.get_field("next_time").max_length


@transaction.atomic
def exercise_for(*, player: Player, drill: Drill, origin: str = "") -> Exercise:
    """Return the exercise that a drill is a rung of.

    Parameters
    ----------
    player : Player
    drill : Drill
        As it is played.
    origin : str
        Where its sentence started: a slug of the shelf, the id of an own drill, a ladder's word, or nothing.

    Notes
    -----
    The ladder it was played from. Else the drill it started from, as long as only what may vary was changed;
    else the drill of the shelf, or of the player's own, that is the same but for name and tempo; else an
    exercise of its own.
    """
    require(may_keep(player))
    if climbed := Exercise.objects.climbed(player, origin):
        return climbed
    key = exercise_key(drill)
    found: dict[str, Any]
    if origin == REACH:
        found, name = {"shelf_slug": REACH}, "Reach"
    elif slug := _slug(drill, key, origin):
        found, name = {"shelf_slug": slug}, shelf()[slug].name
    elif own := _own(player, drill, key, origin):
        found, name = {"own_drill": own}, own.name
    else:
        return Exercise.objects.get_or_create(
            player=player, key=key, shelf_slug="", own_drill=None, climbs=False, defaults={"name": drill.name}
        )[0]
    return Exercise.objects.get_or_create(player=player, **found, defaults={"key": key, "name": name})[0]


@transaction.atomic
def session_for(*, player: Player, at: datetime) -> Session:
    """Return the session of the local day of a moment."""
    require(may_keep(player))
    return Session.objects.get_or_create(player=player, day=timezone.localtime(at).date())[0]


@transaction.atomic
def set_off_day(*, player: Player, at: datetime, is_off: bool) -> Session:
    """Call the local day of a moment an off day from then on, or take that back."""
    require(may_keep(player))
    day = timezone.localtime(at).date()
    said = {"is_off": is_off, "off_at": at if is_off else None}
    return Session.objects.update_or_create(player=player, day=day, defaults=said)[0]


@transaction.atomic
def describe_exercise(*, player: Player, exercise: Exercise, next_time: str, note: str) -> Exercise:
    """Keep what a player means to do next time, and their notes on an exercise."""
    require(may_keep(player) and exercise.player_id == player.pk)
    exercise.next_time, exercise.note = next_time, note
    exercise.save(update_fields=["next_time", "note"])
    return exercise


@transaction.atomic
def mean_next_time(*, player: Player, lines: Mapping[int, str]) -> None:
    """Keep a line for the next time on each of some exercises, by their number; nothing on what is not the player's."""
    require(may_keep(player))
    for exercise in Exercise.objects.of(player).filter(pk__in=lines):
        if exercise.next_time != (line := " ".join(lines[exercise.pk].split())[:NEXT_TIME_LENGTH]):
            exercise.next_time = line
            exercise.save(update_fields=["next_time"])


def _slug(drill: Drill, key: str, origin: str) -> str:
    built_in = shelf().get(origin)
    if built_in and exercise_key(built_in.drill) == key:
        return origin
    return slug_of(drill_key(drill))


def _own(player: Player, drill: Drill, key: str, origin: str) -> OwnDrill | None:
    own = OwnDrill.objects.visible_to(player)
    started = own.filter(pk=uuid_of(origin)).first()
    if started and exercise_key(validate(started.spec)) == key:
        return started
    return own.filter(drill_key=drill_key(drill)).first()
