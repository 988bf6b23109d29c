"""A recording made elsewhere: its notes lie in drill time as they were heard, and are kept so."""

from __future__ import annotations

import numpy as np
from django.utils import timezone

from giusto.hearing.inputs import Input
from giusto.hearing.recording import Recording
from studio.accounts.models import Player
from studio.takes.actions import begin_take, end_take, keep_notes
from studio.takes.heard import Hearing
from studio.takes.messages import Begin, End
from studio.takes.models import Take
from studio.takes.sources.source import Notes, NoteSource, noted, records_of

ON_CHARS = 12  # of what a note was played on, as a file says it


def notes(take: Take) -> Notes:
    """Return a take's notes: stamped in drill time, from a zero of their own where an earlier version moved it."""
    records = records_of(take)
    at_s = np.array([record["at_ms"] for record in records], dtype=np.float64) / 1000
    return noted(at_s - take.zero_audio_s, records), take.hearing.remarks


def keep(*, player: Player, begin: Begin, take_id: object, found: Recording) -> Take:
    """Keep the notes of a recording as a take that is over, with what their times rest on."""
    take = begin_take(player=player, take_id=take_id, message=begin)  # type: ignore[arg-type]
    take.hearing = Hearing(by=Input.RECORDING, source=found.source(), remarks=found.remarks)
    take.save(update_fields=["hearing"])
    heard = found.notes
    records = [
        {"at_ms": round(1000 * at, 4), "source": found.kind}
        | ({} if strength != strength else {"strength": strength})
        | ({"on": on[:ON_CHARS]} if on else {})
        for at, strength, on in zip(heard.onset_s.tolist(), heard.strength.tolist(), heard.source.tolist(), strict=True)
    ]
    count = keep_notes(take, records)
    return end_take(player=player, take=take, message=End(how="complete", batches=count))


def begin(drill: dict[str, object], *, origin: str, name: str) -> Begin:
    """Return the message that begins a take of a recording: drill time is its clock."""
    return Begin(
        drill=drill,
        origin=origin,
        input="recording",
        device={"browser": "recording", "name": name},
        zero_audio_s=0.0,
        started_at=timezone.now(),
    )


SOURCE = NoteSource(notes)
