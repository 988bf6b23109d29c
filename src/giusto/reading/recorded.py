"""What a reading says of a recording: what its times rest on, and nothing that they can't tell."""

from __future__ import annotations

from dataclasses import replace

from giusto.hearing.recording import Recording
from giusto.hearing.source import Source
from giusto.reading.format import Reading

PLACELESS = ("notes", "count")  # time zero by the notes themselves says nothing of the player's place with the click


def of_recording(reading: Reading, recording: Recording) -> Reading:
    """Return the reading of a recording's notes with its source and remarks."""
    return with_source(reading, recording.source(), recording.remarks)


def with_source(reading: Reading, source: Source, remarks: tuple[str, ...]) -> Reading:
    """Return a reading with what its times rest on, and without the player's place where that is not known.

    Parameters
    ----------
    reading : Reading
    source : Source
    remarks : tuple of str
    """
    heard = reading.heard
    if source.by in PLACELESS:
        heard = replace(heard, mean_error_ms=None, ci95_ms=None)
    return replace(reading, heard=heard, source=source, notes=[*remarks, *reading.notes])
