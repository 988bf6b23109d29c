"""What every source of notes is, and the stamps that most of them share."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import chain
from typing import Any

import numpy as np

from giusto.notes.clock_line import fit_clocks
from giusto.notes.record import Played, notes_of
from studio.takes.models import Take

HEARD = "microphone"  # a note that was heard: stamped by the audio clock, its delay taken off
STUMBLE_MS = 2.0  # ours: less is not worth a word
STUMBLED = (
    "the sound fell behind by {:.0f} ms in all while this take was played: the machine was busy;"
    " notes are measured against the clicks as they sounded, to a few ms near each stumble"
)
Notes = tuple[Played, tuple[str, ...]]


def nothing_to_hear(take: Take) -> None:
    """Do nothing: the notes are there as they came."""


@dataclass(frozen=True, slots=True)
class NoteSource:
    """A source of notes.

    Attributes
    ----------
    notes : callable
        Returns a take's notes in drill time, and remarks on them; it writes nothing.
    waits : callable
        Whether something of a take must be heard before it can be read.
    hear : callable
        Hears it: what was heard becomes batches of the take. Done twice, it is done once.
    """

    notes: Callable[[Take], Notes]
    waits: Callable[[Take], bool] = lambda take: False
    hear: Callable[[Take], None] = nothing_to_hear


def records_of(take: Take) -> list[dict[str, Any]]:
    """Return a take's note records as they came, in the order of their batches."""
    return [*chain.from_iterable(batch.notes for batch in take.batches.all())]


def stamped(take: Take) -> Notes:
    """Return a take's notes in drill time: heard ones by the audio clock, the others by the page's, through pairs."""
    records = records_of(take)
    if not records:
        return notes_of([]), ()
    at_ms = np.array([record["at_ms"] for record in records], dtype=np.float64)
    by_page = np.array([record["source"] != HEARD for record in records])
    audio_s = at_ms / 1000
    stumbled_ms = 0.0
    if by_page.any():
        clocks = fit_clocks([*chain.from_iterable(batch.pairs for batch in take.batches.all())])
        audio_s[by_page] = clocks.audio_s(at_ms[by_page]) - take.hearing.delay_s
        stumbled_ms = clocks.stumbled_ms
    notes = noted(audio_s - take.zero_audio_s, records)
    return notes, (STUMBLED.format(stumbled_ms),) if stumbled_ms >= STUMBLE_MS else ()


def noted(onset_s: Any, records: Sequence[dict[str, Any]]) -> Played:
    """Return records as notes at these drill times."""
    strength = [record.get("strength") for record in records]
    return notes_of(
        onset_s,
        strength=np.array([np.nan if s is None else s for s in strength], dtype=np.float64),
        source=[record.get("on") or record["source"] for record in records],  # what it was played on, where known
    )
