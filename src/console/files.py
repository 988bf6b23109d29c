"""Reading the files that the commands name."""

from __future__ import annotations

from pathlib import Path

from giusto.drill import parse
from giusto.errors import GiustoError
from giusto.notes.csv_file import parse_notes
from giusto.notes.record import Played
from giusto.schedule import Schedule, schedule

MAX_BYTES = 64_000_000  # ours: a million onsets with labels


def read_schedule(path: str) -> Schedule:
    """Return the schedule of a drill file."""
    return schedule(parse(read_bytes(path)))


def read_notes(path: str) -> Played:
    """Return the notes of a CSV file."""
    return parse_notes(read_bytes(path))


def read_bytes(path: str) -> bytes:
    """Return what a file holds."""
    with Path(path).open("rb") as file:
        content = file.read(MAX_BYTES + 1)
    if len(content) > MAX_BYTES:
        raise GiustoError(f"{path} is larger than {MAX_BYTES:,} bytes", code="too_large")
    return content
