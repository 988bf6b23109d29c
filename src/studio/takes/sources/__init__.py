"""Where the notes of a take come from: one module each.

Each says how what arrived becomes notes in drill time with remarks (``notes``), and whether it must be heard first
(``waits`` and ``hear``), which the worker does: no request listens to sound.
"""

from __future__ import annotations

from giusto.hearing.inputs import Input
from studio.takes.models import Take
from studio.takes.sources import keys, microphone, midi, recording, simulated
from studio.takes.sources.source import NoteSource

SOURCES: dict[Input, NoteSource] = {
    Input.KEYS: keys.SOURCE,
    Input.MIDI: midi.SOURCE,
    Input.MICROPHONE: microphone.SOURCE,
    Input.PHONE: microphone.SOURCE,
    Input.RECORDING: recording.SOURCE,
    Input.SIMULATED: simulated.SOURCE,
    Input.STAND_IN: microphone.SOURCE,
    Input.STAND_IN_MIDI: midi.SOURCE,
}


def source_of(take: Take) -> NoteSource:
    """Return where the notes of a take come from: what heard it, else what it says of itself."""
    return SOURCES[take.hearing.by or Input(take.input)]


__all__ = ["SOURCES", "NoteSource", "source_of"]
