"""What was played of what a teacher asked for."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count, Max, Q, Sum

from studio.takes.models import Take
from studio.teaching.models import Assignment


@dataclass(frozen=True, slots=True)
class SinceAccepted:
    """How much was played of an assignment since it was taken on, and the newest take of it."""

    takes: int
    minutes: int
    last: datetime | None


def played_of(assignment: Assignment) -> SinceAccepted | None:
    """Return what was played of an assignment; None where it is not known by its takes, or not taken on."""
    if assignment.accepted_at is None:
        return None
    asked = _takes_of(assignment)
    if asked is None:
        return None
    takes = Take.objects.telling_of(assignment.player)
    asked_for = takes.filter(pk__in=takes.filter(asked, started_at__gte=assignment.accepted_at))  # each once
    found = asked_for.aggregate(count=Count("pk"), seconds=Sum("reading__played_s"), last=Max("started_at"))
    return SinceAccepted(found["count"], round((found["seconds"] or 0.0) / 60), found["last"])


def _takes_of(assignment: Assignment) -> Q | None:
    if assignment.drill_key:
        return Q(drill_key=assignment.drill_key)
    if assignment.ladder_id:
        return Q(exercise__ladders=assignment.ladder_id)
    if assignment.piece_id:
        return Q(exercise__stretch__piece=assignment.piece_id)
    if assignment.kind == Assignment.Kind.BLOCK:
        return _takes_of_block(assignment.spec)
    return None


def _takes_of_block(spec: dict[str, Any]) -> Q | None:
    """Return which takes are of a block's exercises: by their names, as the pupil's plan finds them."""
    called = {one.get("ladder") or one["name"] for one in spec["exercises"]}
    found = Q()
    for name in sorted(called):
        found |= Q(exercise__ladders__name__iexact=name) | Q(exercise__name__iexact=name)
    return found if called else None
