"""The notes of a take as CSV: ``time_s``, and perhaps ``strength``, ``source`` and ``label``.

RFC 4180: a header, one note a line, a dot as decimal sign.
"""

from __future__ import annotations

import csv
import io
import re

import numpy as np

from giusto.errors import GiustoError
from giusto.notes.checks import checked_onsets
from giusto.notes.csv_rows import csv_rows
from giusto.notes.record import Played, notes_of

COLUMNS = ("time_s", "strength", "source", "label")
MOST_DIGITS = 40  # ours: of a number; a nanosecond of the longest take has 15
NUMBER = re.compile(r"[+-]?([0-9]+(\.[0-9]*)?|\.[0-9]+)([eE][+-]?[0-9]{1,3})?")


def parse_notes(text: str | bytes) -> Played:
    r"""Read the notes of a take.

    Parameters
    ----------
    text : str or bytes
        CSV, UTF-8; times ascending.

    Returns
    -------
    Played

    Raises
    ------
    GiustoError
        With the line and what is allowed there.

    Examples
    --------
    >>> parse_notes("time_s,strength\r\n2.488300,0.5\r\n2.805100,\r\n").strength
    array([0.5, nan])
    """
    header, rows = csv_rows(text, "the onsets")
    _check_header(header)
    found: dict[str, list[str]] = {name: [] for name in header}
    for line, row in rows:
        _check_width(row, header, line)
        for name, field in zip(header, row, strict=True):
            found[name].append(field)
    lines = [line for line, _ in rows]
    strength = [_strength(field, line) for field, line in zip(found.get("strength", []), lines, strict=False)]
    onset_s = [_number(field, line, "time_s") for field, line in zip(found["time_s"], lines, strict=True)]
    return notes_of(
        checked_onsets(onset_s, lines=lines),
        strength=strength if "strength" in found else None,
        source=found.get("source"),
        label=found.get("label"),
    )


def write_notes(notes: Played) -> str:
    r"""Return notes as CSV, times to a nanosecond; columns that say nothing are left out.

    Examples
    --------
    >>> write_notes(notes_of([2.4883]))
    'time_s\r\n2.488300000\r\n'
    >>> write_notes(notes_of([2.4883], strength=[0.25], source=["pad"]))
    'time_s,strength,source\r\n2.488300000,0.25,pad\r\n'
    """
    columns = {"time_s": [f"{onset:.9f}" for onset in notes.onset_s.tolist()]}
    if np.any(np.isfinite(notes.strength)):
        columns["strength"] = ["" if np.isnan(s) else f"{s:g}" for s in notes.strength.tolist()]
    if np.any(notes.source != ""):
        columns["source"] = notes.source.tolist()
    if np.any(notes.label != ""):
        columns["label"] = notes.label.tolist()
    written = io.StringIO(newline="")
    rows = csv.writer(written, lineterminator="\r\n")
    rows.writerow(columns)
    rows.writerows(zip(*columns.values(), strict=True))
    return written.getvalue()


def _check_header(header: list[str]) -> None:
    if "time_s" not in header:
        found = ",".join(header)[:60]
        raise GiustoError(f'line 1 must be a header with "time_s", found "{found}"', code="header")
    for name in header:
        if name not in COLUMNS:
            allowed = ", ".join(COLUMNS)
            raise GiustoError(f'line 1 has a column "{name[:60]}", allowed are {allowed}', code="header")
    if len(set(header)) < len(header):
        raise GiustoError("line 1 names a column twice", code="header")


def _check_width(row: list[str], header: list[str], line: int) -> None:
    if len(row) != len(header):
        message = f"line {line} has {len(row)} fields, allowed are the header's {len(header)}"
        raise GiustoError(message, code="fields")


def _strength(text: str, line: int) -> float:
    if not text.strip():
        return np.nan
    strength = _number(text, line, "strength")
    if not 0 <= strength <= 1:
        raise GiustoError(f"line {line}: strength is {text[:40]}, allowed is 0 to 1", code="range")
    return strength


def _number(text: str, line: int, name: str) -> float:
    plain = text.strip()
    if len(plain) > MOST_DIGITS or not NUMBER.fullmatch(plain):
        message = f'line {line}: {name} is "{text[:40]}", allowed is a number such as 2.488300'
        raise GiustoError(message, code="not_a_number")
    return float(plain)
