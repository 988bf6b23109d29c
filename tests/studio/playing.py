"""Takes as a browser would send them."""

from __future__ import annotations

import json
from typing import Any
from uuid import UUID, uuid4

from django.test import Client

from giusto.drill import validate
from giusto.schedule import Schedule, schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.takes.models import Take
from tests.drills import plain

ZERO_AUDIO_S = 2.0
PAGE_OFFSET_MS = 1500.0  # page time less audio time


def begin_body(drill: dict[str, Any] | None = None, **changes: Any) -> dict[str, Any]:
    """Return the message that begins a take played by hand."""
    return {
        "drill": drill or plain(),
        "input": "keys",
        "device": {"browser": "test", "sample_rate_hz": 48000},
        "zero_audio_s": ZERO_AUDIO_S,
        "started_at": "2026-11-25T10:00:00Z",
        **changes,
    }


def notes_body(onsets_s: Any) -> dict[str, Any]:
    """Return a batch of notes at these drill times, with two clock pairs."""
    stamps = [1000 * (float(onset) + ZERO_AUDIO_S) + PAGE_OFFSET_MS for onset in onsets_s]
    first, last = (stamps[0], stamps[-1] + 1) if stamps else (5000.0, 6000.0)
    pairs = [[(ms - PAGE_OFFSET_MS) / 1000, ms] for ms in (first, last)]
    return {"notes": [{"at_ms": ms, "source": "space"} for ms in stamps], "pairs": pairs}


def post(client: Client, path: str, body: Any) -> Any:
    """Post JSON."""
    text = body if isinstance(body, str) else json.dumps(body)
    return client.post(path, text, content_type="application/json", headers={"Accept": "application/json"})


def play(
    client: Client,
    *,
    drill: dict[str, Any] | None = None,
    player: SimulatedPlayer | None = None,
    seed: int = 1,
    started_at: str = "2026-11-25T10:00:00Z",
) -> Take:
    """Send a whole take of a simulated hand and return it."""
    drill = drill or plain()
    plan: Schedule = schedule(validate(drill))
    onsets_s = simulate(plan, player or SimulatedPlayer(bias_percent=-1.0), seed=seed).onsets_s
    return send(client, drill, onsets_s, started_at=started_at)


def send(
    client: Client, drill: dict[str, Any], onsets_s: Any, *, started_at: str = "2026-11-25T10:00:00Z", origin: str = ""
) -> Take:
    """Send a whole take of these notes, in two batches, and return it."""
    take_id: UUID = uuid4()
    body = begin_body(drill, started_at=started_at, origin=origin)
    assert post(client, f"/takes/{take_id}/begin/", body).status_code == 200
    halves = (onsets_s[: onsets_s.size // 2], onsets_s[onsets_s.size // 2 :])
    for number, half in enumerate(halves):
        assert post(client, f"/takes/{take_id}/batches/{number}/", notes_body(half)).status_code == 200
    assert post(client, f"/takes/{take_id}/end/", {"how": "complete", "batches": 2}).status_code == 200
    return Take.objects.get(pk=take_id)
