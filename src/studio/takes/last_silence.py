"""One silence of a take while it is played: read from its notes at once, from its sound by the worker."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any
from uuid import UUID

from giusto.arrays import FloatArray
from giusto.figures.silence import SilenceReading
from giusto.reading import Thread
from giusto.reading.one_silence import analyse_silence
from giusto.schedule import Schedule
from studio.takes.material import material_of
from studio.takes.models import Take
from studio.takes.plan import plan_of
from studio.takes.reading import prior_of
from studio.takes.sources import microphone
from studio.takes.thread import thread_json


@dataclass(frozen=True, slots=True)
class ToldSilence:
    """A silence as it came out, the clock's way through it, and the notes about it."""

    silence: SilenceReading
    thread: Thread
    onset_s: FloatArray


def silence_of(take: Take, plan: Schedule, number: int) -> ToldSilence | None:
    """Return one silence by the notes that have arrived; None where they are too few yet."""
    notes = material_of(take).notes
    found = analyse_silence(plan, notes, number - 1, prior=prior_of(take))
    return ToldSilence(*found, notes.onset_s) if found else None


def hear_silence(take_id: UUID, number: int) -> dict[str, Any] | None:
    """Return one silence by the sound that has arrived, as JSON takes it; None where it tells too little yet."""
    take = Take.objects.get(pk=take_id)
    plan = plan_of(take)
    notes = microphone.heard_so_far(take, plan, number).notes
    found = analyse_silence(plan, notes, number - 1, prior=prior_of(take))
    if found is None:
        return None
    silence, thread = found
    return {"silence": asdict(silence), "thread": thread_json(thread), "onset_s": notes.onset_s.round(6).tolist()}
