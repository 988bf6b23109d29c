"""A simulated player: stamps as from keys, and what its browser said of how the page's sound came through."""

from studio.takes.models import Take
from studio.takes.sources.source import Notes, NoteSource, stamped


def notes(take: Take) -> Notes:
    """Return a take's notes in drill time."""
    found, remarks = stamped(take)
    return found, (*remarks, *filter(None, [take.device.remark]))


SOURCE = NoteSource(notes)
