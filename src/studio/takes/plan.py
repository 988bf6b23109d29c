"""A take's drill, laid out in time."""

from __future__ import annotations

from giusto.drill import validate
from giusto.schedule import Schedule, schedule
from studio.takes.models import Take


def plan_of(take: Take) -> Schedule:
    """Return what a take's drill asks for, and when."""
    return schedule(validate(take.drill))
