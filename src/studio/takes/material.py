"""A take's raw material, brought into drill time as note records, whatever its notes came from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import chain
from typing import TypeAlias

import numpy as np

from giusto.drill import validate
from giusto.hearing.performance import as_chords
from giusto.notes.clock_line import fit_clocks
from giusto.notes.record import Played, notes_of
from giusto.schedule import Schedule, schedule
from studio.takes.models import Take

HEARD = "microphone"  # a note that was heard: stamped by the audio clock, its delay taken off
MIDI = ("midi", "stand-in-midi")
STUMBLE_MS = 2.0  # ours: less is not worth a word
STUMBLED = (
    "the sound fell behind by {:.0f} ms in all while this take was played: the machine was busy;"
    " notes are measured against the clicks as they sounded, to a few ms near each stumble"
)


@dataclass(frozen=True, slots=True)
class Material:
    """A take as it lies in the database, brought into drill time.

    Attributes
    ----------
    plan : Schedule
    notes : Played
    remarks : tuple of str
        What a reading has to say of how the notes came.
    """

    plan: Schedule
    notes: Played
    remarks: tuple[str, ...] = ()

    @property
    def played_s(self) -> float:
        """How long was played, from the first note to the last."""
        return float(np.ptp(self.notes.onset_s)) if self.notes.onset_s.size else 0.0


TakeSource: TypeAlias = Callable[[Take], tuple[Played, tuple[str, ...]]]


def plan_of(take: Take) -> Schedule:
    """Return a take's drill, laid out in time."""
    return schedule(validate(take.drill))


def material_of(take: Take) -> Material:
    """Return a take's plan and its notes in drill time, so far as they have arrived.

    Raises
    ------
    GiustoError
        Where the raw material makes no notes.
    """
    notes, remarks = SOURCES[Take.Input(take.input)](take)
    plan = plan_of(take)
    return Material(plan, notes if len(plan.clicks) else from_first(notes, plan), remarks)


def from_first(notes: Played, plan: Schedule) -> Played:
    """Return notes of a take without any click in a drill time of their own: the first that is asked is the first."""
    if not len(notes) or not len(plan.playable):
        return notes
    moved_s = float(plan.seconds(plan.playable.tick[0])) - float(notes.onset_s[0])
    return notes_of(notes.onset_s + moved_s, strength=notes.strength, source=notes.source, label=notes.label)


def stamped(take: Take) -> tuple[Played, tuple[str, ...]]:
    """Return a take's notes in drill time: heard ones by the audio clock, the others by the page's, through pairs."""
    batches = list(take.batches.all())
    records = [*chain.from_iterable(batch.notes for batch in batches)]
    if not records:
        return notes_of([]), ()
    at_ms = np.array([record["at_ms"] for record in records], dtype=np.float64)
    by_page = np.array([record["source"] != HEARD for record in records])
    audio_s = at_ms / 1000
    stumbled_ms = 0.0
    if by_page.any():
        clocks = fit_clocks([*chain.from_iterable(batch.pairs for batch in batches)])
        audio_s[by_page] = clocks.audio_s(at_ms[by_page]) - take.delay_s
        stumbled_ms = clocks.stumbled_ms
    strength = [record.get("strength") for record in records]
    notes = notes_of(
        audio_s - take.zero_audio_s,
        strength=np.array([np.nan if s is None else s for s in strength], dtype=np.float64),
        source=[record["source"] for record in records],
    )
    notes = as_chords(notes) if take.hearing.get("by") in MIDI else notes
    return notes, (STUMBLED.format(stumbled_ms),) if stumbled_ms >= STUMBLE_MS else ()


def heard(take: Take) -> tuple[Played, tuple[str, ...]]:
    """Return notes that were heard in sound, in drill time when they were kept, and what their times rest on."""
    notes, remarks = stamped(take)
    told = take.hearing.get("remarks") or [take.device.get("remark")]
    return notes, (*remarks, *(str(one) for one in told if one))


SOURCES: dict[Take.Input, TakeSource] = {
    Take.Input.KEYS: stamped,
    Take.Input.SIMULATED: heard,
    Take.Input.RECORDING: heard,
    Take.Input.MICROPHONE: heard,
    Take.Input.MIDI: stamped,
}
