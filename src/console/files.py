"""Reading the files that the commands name; each loads no more of the core than it needs."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pydantic_core import to_json

from giusto.errors import GiustoError

if TYPE_CHECKING:
    from giusto.notes.record import Played
    from giusto.schedule import Schedule

MAX_BYTES = 64_000_000  # ours: a million onsets with labels


def read_schedule(path: str) -> Schedule:
    """Return the schedule of a drill file."""
    from giusto.drill import parse
    from giusto.schedule import schedule

    return schedule(parse(read_bytes(path)))


def read_notes(path: str) -> Played:
    """Return the notes of a CSV file."""
    from giusto.notes.csv_file import parse_notes

    return parse_notes(read_bytes(path))


def read_bytes(path: str) -> bytes:
    """Return what a file holds."""
    with Path(path).open("rb") as file:
        content = file.read(MAX_BYTES + 1)
    if len(content) > MAX_BYTES:
        raise GiustoError(f"{path} is larger than {MAX_BYTES:,} bytes", code="too_large")
    return content


def write_json(plain: Any) -> None:
    """Write what a command found to standard output; pydantic's writer, since ``json``'s is slow with line breaks."""
    sys.stdout.write(f"{to_json(plain, indent=1, inf_nan_mode='null').decode()}\n")
