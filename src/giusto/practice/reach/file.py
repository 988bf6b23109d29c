"""Silences of any lengths that were held or not, as CSV: ``beats,held``."""

from __future__ import annotations

from giusto.errors import GiustoError
from giusto.notes.csv_file import NUMBER
from giusto.notes.csv_rows import csv_rows

OUTCOMES = ("beats", "held")
MOST_BEATS = 100_000.0  # ours: of a silence that is read


def is_of_outcomes(text: str | bytes) -> bool:
    """Return whether a file's header is that of outcomes."""
    return csv_rows(text, "the silences")[0] == list(OUTCOMES)


def parse_silences(text: str | bytes) -> tuple[list[float], list[bool]]:
    """Read silences: CSV with the columns ``beats`` and ``held``.

    Raises
    ------
    GiustoError
        With the line, what was found and what is allowed.
    """
    header, rows = csv_rows(text, "the silences")
    if header != list(OUTCOMES):
        raise GiustoError(f'line 1 must be "beats,held", found "{",".join(header)[:80]}"', code="header")
    beats, held = [], []
    for line, row in rows:
        length, word = [field.strip() for field in row] if len(row) == len(header) else ("", "")
        if not NUMBER.fullmatch(length) or not 0 < float(length) <= MOST_BEATS or word not in ("0", "1"):
            allowed = f"a length above 0 up to {MOST_BEATS:,.0f} beats, and 1 or 0"
            raise GiustoError(f'line {line} is "{",".join(row)[:60]}", allowed is {allowed}', code="row")
        beats.append(float(length))
        held.append(word == "1")
    if not beats:
        raise GiustoError("there is no silence in the file, needed is at least one", code="empty")
    return beats, held
