"""Hands for ladders: a drill without silences, and takes on it that are clean or not, through the real addresses."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from unittest import mock
from urllib.parse import parse_qs, urlsplit
from uuid import UUID, uuid4

from django.test import Client
from django.utils import timezone

from giusto.drill import validate
from giusto.practice.ladder import Ladder, ladder_of
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.takes.models import Take
from tests.drills import plain
from tests.studio.playing import begin_body, notes_body, post

CLEAN, WIDE = (
    SimulatedPlayer(clock_percent=0.3, hand_ms=2.0, place_ms=0.0),
    SimulatedPlayer(clock_percent=2.0, hand_ms=60.0),
)


def short(**changes: Any) -> dict[str, Any]:
    """Return a drill of four cycles whose every beat sounds, a note to each."""
    return plain(**({"silence": None, "cycles": 4, "grid": 1} | changes))


def ladder(**changes: Any) -> dict[str, Any]:
    """Return a ladder from 60 by four to 80, three clean in a row."""
    vary = {"what": "tempo", "from": 60, "to": 80, "by": 4}
    rule = {"kind": "streak", "clean": 3}
    return {"giusto": "ladder/1", "name": "Quarters", "drill": short(), "vary": vary, "rule": rule} | changes


def at(moment: datetime) -> Any:
    """Let it be a moment for the site."""
    return mock.patch.object(timezone, "now", return_value=moment)


def play_asked(client: Client, address: str, *, clean: bool, moment: datetime, how: str = "complete") -> Take:
    """Open the page that an address plays, and send what a hand plays there."""
    page = client.get(address)
    assert page.status_code == 200, (address, page.status_code)
    plan = page.context["plan"]
    return send(client, plan["drill"], clean=clean, moment=moment, origin=plan["origin"], how=how)


def send(
    client: Client,
    drill: dict[str, Any],
    *,
    clean: bool,
    moment: datetime,
    origin: str = "",
    how: str = "complete",
) -> Take:
    """Send a take."""
    seed = Take.objects.count() + 1
    onsets_s = simulate(schedule(validate(drill)), CLEAN if clean else WIDE, seed=seed).onsets_s
    take_id: UUID = uuid4()
    body = begin_body(drill, started_at=moment.isoformat(), origin=origin)
    assert post(client, f"/takes/{take_id}/begin/", body).status_code == 200
    assert post(client, f"/takes/{take_id}/batches/0/", notes_body(onsets_s)).status_code == 200
    assert post(client, f"/takes/{take_id}/end/", {"how": how, "batches": 1}).status_code == 200
    return Take.objects.get(pk=take_id)


def words_in(address: str) -> dict[str, str]:
    """Return the words that an address carries."""
    return {name: values[0] for name, values in parse_qs(urlsplit(address).query).items()}


def ladder_core(**changes: Any) -> Ladder:
    """Return the same ladder as the core's own type."""
    return ladder_of(ladder(**changes))
