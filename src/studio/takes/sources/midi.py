"""MIDI: stamps of the page's clock, each note with its strength; the notes of a chord are one."""

from giusto.hearing.performance import as_chords
from studio.takes.models import Take
from studio.takes.sources.source import Notes, NoteSource, stamped


def notes(take: Take) -> Notes:
    """Return a take's notes in drill time, a chord as one."""
    found, remarks = stamped(take)
    return as_chords(found), remarks


SOURCE = NoteSource(notes)
