"""Ladders that stand where a test wants them, with takes of which only their rung and their end are known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from types import SimpleNamespace
from typing import Any
from uuid import uuid4

from giusto.practice.ladder import Attempt, climbed, step_from
from giusto.practice.ladder import Ladder as Core
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from studio.ladders.attempts import Tried
from studio.ladders.memory import Past
from studio.ladders.standing import LadderStanding
from tests.studio.ladders.climbing import ladder_core

MONDAY = datetime(2026, 11, 2, 18, tzinfo=UTC)
LONG = ladder_core(vary={"what": "tempo", "from": 60, "to": 120, "by": 2})  # 31 rungs, three clean in a row
SHORT = ladder_core()  # six, from 60 by four to 80


def tried(rung: int, *, day: int = 0, minute: int = 0, clean: bool | None = True) -> Tried:
    """Return a take on a rung, of so many days after Monday."""
    at = MONDAY + timedelta(days=day, minutes=minute)
    facts: Any = SimpleNamespace(take=uuid4(), at=at, day=at.date(), minutes=1.0, is_off=False)
    return Tried(facts, rung, clean, None if clean is None else float(clean), easy=False)


def attempt(one: Tried) -> Attempt:
    """Return a take as one that was made elsewhere."""
    return Attempt(one.at, one.rung, bool(one.clean), 1.0)


def standing(core: Core, takes: Sequence[Tried], **changes: Any) -> LadderStanding:
    """Return a ladder with takes of days gone by, its step changed."""
    kept = start_ladder(player=local_player(), ladder=core)
    state = climbed(core, [attempt(one) for one in takes])
    step = step_from(core, state, at=MONDAY + timedelta(days=20), off=False)
    return LadderStanding(kept, Past([*takes], (), state), [], replace(step, **changes), is_off=False)
