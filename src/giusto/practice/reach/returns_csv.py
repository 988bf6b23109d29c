"""Returns of silences, as CSV: ``take,beats,return_beats,sd_beats`` and perhaps ``at``."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime

import numpy as np

from giusto.errors import GiustoError
from giusto.notes.csv_file import NUMBER
from giusto.notes.csv_rows import csv_rows
from giusto.returns.drift import Returns, fading

COLUMNS = ("take", "beats", "return_beats", "sd_beats")
AT = "at"
MOST_BEATS = 100_000.0  # ours: of a silence that is read
MOST_CHARS = 100  # ours: of a take's name
SECONDS_A_DAY = 86_400


def parse_returns(text: str | bytes) -> Returns:
    """Read returns of silences; none at all is no error.

    Raises
    ------
    GiustoError
        With the line, what was found and what is allowed.
    """
    header, rows = csv_rows(text, "the silences")
    if sorted(header) not in (sorted(COLUMNS), sorted((*COLUMNS, AT))):
        allowed = f'"{",".join(COLUMNS)}", and perhaps "{AT}"'
        raise GiustoError(f'line 1 must be {allowed}, found "{",".join(header)[:80]}"', code="header")
    told = [_row(header, line, row) for line, row in rows]
    names = list(dict.fromkeys(take for take, *_ in told))
    number = {name: index for index, name in enumerate(names)}
    at = _days(names, told) if AT in header else np.zeros(len(names))
    values = np.array([(beats, back, sd) for _, beats, back, sd, _ in told]).reshape(-1, 3)
    return Returns(
        take=np.array([number[take] for take, *_ in told], dtype=np.int64),
        beats=values[:, 0],
        return_beats=values[:, 1],
        sd_beats=values[:, 2],
        weight=fading(at.max(initial=0.0) - at),
    )


def _row(header: Sequence[str], line: int, row: Sequence[str]) -> tuple[str, float, float, float, float]:
    """Return a row's take, length, return, its standard error, and when it was, in days."""
    if len(row) != len(header):
        raise GiustoError(f"line {line} has {len(row)} fields, allowed are {len(header)}", code="row")
    field = {name: value.strip() for name, value in zip(header, row, strict=True)}
    if not 0 < len(field["take"]) <= MOST_CHARS:
        found = field["take"][:40]
        raise GiustoError(
            f'line {line}, take: is "{found}", allowed is a name of 1 to {MOST_CHARS} letters', code="row"
        )
    most = f"{MOST_BEATS:,.0f}"
    beats = _number(line, "beats", field["beats"], lambda x: 0 < x <= MOST_BEATS, f"above 0 up to {most} beats")
    back = _number(
        line, "return_beats", field["return_beats"], lambda x: abs(x) <= MOST_BEATS, f"-{most} to {most} beats"
    )
    sd = _number(line, "sd_beats", field["sd_beats"], lambda x: 0 <= x <= MOST_BEATS, f"0 to {most} beats")
    return field["take"], beats, back, sd, _at(line, field[AT]) if AT in field else 0.0


def _number(line: int, name: str, text: str, allows: Callable[[float], bool], allowed: str) -> float:
    if not NUMBER.fullmatch(text) or not allows(float(text)):
        raise GiustoError(f'line {line}, {name}: is "{text[:40]}", allowed is {allowed}', code="row")
    return float(text)


def _at(line: int, text: str) -> float:
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        at = None
    if at is None or at.tzinfo is None or not 1970 <= at.year <= 2200:
        allowed = "ISO 8601 with an offset, 1970 to 2200, such as 2026-11-30T18:00:00+01:00"
        raise GiustoError(f'line {line}, at: is "{text[:40]}", allowed is {allowed}', code="row")
    return at.timestamp() / SECONDS_A_DAY


def _days(names: Sequence[str], told: Sequence[tuple[str, float, float, float, float]]) -> np.ndarray:
    """Return when each take was: by the latest of its rows."""
    at = dict.fromkeys(names, -np.inf)
    for take, *_, day in told:
        at[take] = max(at[take], day)
    return np.array([at[name] for name in names])
