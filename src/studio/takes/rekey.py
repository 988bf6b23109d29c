"""The keys by which drills are known again, computed anew where the core's rule of them has changed."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from functools import lru_cache
from itertools import islice
from typing import Any, TypeVar

from django.db import models, transaction

from giusto.drill import Drill, validate
from giusto.drill.identity import KEY_LENGTH, VERSION, drill_key, exercise_key, rung_key
from studio.drills.models import OwnDrill
from studio.drills.shelf import shelf
from studio.exercises.models import Exercise
from studio.takes.models import Take

CHUNK = 500  # rows that are written at once
MOST_REMEMBERED = 512  # drills whose keys are kept: takes of one rung share theirs
Row = TypeVar("Row", bound=models.Model)


def stale() -> bool:
    """Return whether some key is of an earlier rule; three small queries."""
    named = (("drill_key", Take.objects), ("drill_key", OwnDrill.objects), ("key", Exercise.objects))
    return any(rows.exclude(**{f"{name}__startswith": VERSION}).exclude(**{name: ""}).exists() for name, rows in named)


@transaction.atomic
def rekey() -> int:
    """Compute every key anew, all of them or none; return how many rows have another one now."""
    own = _changed(OwnDrill.objects.all(), _rekeyed_own)
    takes = _changed(Take.objects.only("pk", "drill", "drill_key", "rung_key"), _rekeyed_take)
    count = _written(OwnDrill, own, ["drill_key"]) + _written(Take, takes, ["drill_key", "rung_key"])
    for exercise in Exercise.objects.filter(climbs=False).exclude(key="").select_related("own_drill").order_by("pk"):
        count += _rekey_exercise(exercise)
    return count


def _changed(rows: models.QuerySet[Row], rekeyed: Any) -> Iterator[Row]:
    return (row for row in rows.iterator(chunk_size=CHUNK) if rekeyed(row))


def _written(model: type[models.Model], rows: Iterable[Any], columns: list[str]) -> int:
    rows, count = iter(rows), 0
    while some := list(islice(rows, CHUNK)):
        model._default_manager.bulk_update(some, columns)
        count += len(some)
    return count


def _rekeyed_own(own: OwnDrill) -> bool:
    before, own.drill_key = own.drill_key, drill_key(validate(own.spec))
    return own.drill_key != before


def _rekeyed_take(take: Take) -> bool:
    before = take.drill_key, take.rung_key
    take.drill_key, take.rung_key = _keys(json.dumps(take.drill, sort_keys=True))
    return (take.drill_key, take.rung_key) != before


@lru_cache(maxsize=MOST_REMEMBERED)
def _keys(text: str) -> tuple[str, str]:
    drill = validate(json.loads(text))
    return drill_key(drill), rung_key(drill)


def _rekey_exercise(exercise: Exercise) -> bool:
    """Give an exercise the key of its drill; where another has that already, its takes are one exercise from now on."""
    drill = _drill_of(exercise)
    key = exercise_key(drill) if drill else f"{VERSION}{exercise.key.removeprefix(VERSION)}"[:KEY_LENGTH]
    if key == exercise.key:
        return False
    is_free = not exercise.shelf_slug and exercise.own_drill is None
    twins = Exercise.objects.filter(player=exercise.player_id, key=key, shelf_slug="", own_drill=None, climbs=False)
    if is_free and (twin := twins.exclude(pk=exercise.pk).first()):
        exercise.takes.update(exercise=twin)
        exercise.climbs = True  # its ladder, if it has one, goes on by itself
    exercise.key = key
    exercise.save(update_fields=["key", "climbs"])
    return True


def _drill_of(exercise: Exercise) -> Drill | None:
    """Return a drill of an exercise: of the shelf, the player's own, or that of its first take; None without any."""
    if built_in := shelf().get(exercise.shelf_slug):
        return built_in.drill
    if exercise.own_drill:
        return validate(exercise.own_drill.spec)
    first = exercise.takes.order_by("started_at").values_list("drill", flat=True).first()
    return validate(first) if first else None
