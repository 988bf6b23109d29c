"""A take's drill, laid out in time."""

from __future__ import annotations

import json
from functools import lru_cache
from typing import Any

from giusto.drill import Drill, validate
from giusto.schedule import Schedule, schedule
from studio.takes.models import Take

MOST_REMEMBERED = 512  # drills that are kept checked: many takes are of one


def plan_of(take: Take) -> Schedule:
    """Return what a take's drill asks for, and when."""
    return schedule(drill_of(take.drill))


def drill_of(plain: Any) -> Drill:
    """Return the drill that a take keeps.

    Raises
    ------
    DrillError
        Where no version of ours takes it any more.
    """
    return _checked(json.dumps(plain, sort_keys=True))


@lru_cache(maxsize=MOST_REMEMBERED)
def _checked(text: str) -> Drill:
    return validate(json.loads(text))
