"""A take as files: the drill, the onsets, the reading, in one zip."""

from __future__ import annotations

import io
import json
import zipfile

from giusto.errors import GiustoError
from giusto.notes.csv_file import write_notes
from giusto.notes.record import Played, notes_of
from studio.takes.material import material_of
from studio.takes.models import Take

ABOUT = """drill.json   the drill that was asked for
take.csv     each note in seconds from the drill's time zero
reading.json what the page shows

The page reads a take in the light of the takes before it, and ./giusto analyse these files alone: where a take
by itself tells little (what a click takes back, clock and hand), the two may differ within their ranges.
"""


def archive(take: Take) -> bytes:
    """Return the zip of a take that is over; without a reading where it could not be read."""
    files = {
        "drill.json": json.dumps(take.drill, indent=1, ensure_ascii=False) + "\n",
        "take.csv": write_notes(notes_of_take(take)),
    }
    if (row := getattr(take, "reading", None)) and row.spec:
        files["reading.json"] = json.dumps(row.spec, indent=1, ensure_ascii=False) + "\n"
        files["about.txt"] = ABOUT
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, text in files.items():
            packed.writestr(name, text)
    return buffer.getvalue()


def notes_of_take(take: Take) -> Played:
    """Return a take's notes in drill time; where its clocks make none, those that were kept."""
    row = getattr(take, "reading", None)
    if row and row.onsets_s is not None:
        return notes_of(row.onsets_s, strength=_known(row.strengths), source=row.sources)
    try:
        return material_of(take).notes
    except GiustoError:
        return notes_of([])


def _known(strengths: list[float | None] | None) -> list[float] | None:
    return None if strengths is None else [float("nan") if strength is None else strength for strength in strengths]
