"""A figure take by take, as CSV: ``at,value,sd``."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.notes.csv_rows import csv_rows
from giusto.practice.ladder.attempts_csv import moment

COLUMNS = ["at", "value", "sd"]
MOST = 1e9  # ours: of a figure that is read
FIRST_YEAR, LAST_YEAR = 1970, 2200
SECONDS_A_DAY = 86_400


@dataclass(frozen=True, slots=True)
class FiguresOfTakes:
    """A figure, take by take.

    Attributes
    ----------
    at : list of datetime
        Ascending, each with its offset.
    values, sds : array of float, shape (takes,)
    """

    at: list[datetime]
    values: FloatArray
    sds: FloatArray

    @property
    def days(self) -> FloatArray:
        """When each was, in days."""
        return np.array([one.timestamp() / SECONDS_A_DAY for one in self.at])


def parse_figures(text: str | bytes) -> FiguresOfTakes:
    """Read a figure take by take.

    Raises
    ------
    GiustoError
        With the line, what was found and what is allowed.
    """
    header, rows = csv_rows(text, "the figures")
    if header != COLUMNS:
        raise GiustoError(f'line 1 must be "{",".join(COLUMNS)}", found "{",".join(header)[:80]}"', code="header")
    at, values, sds = [], [], []
    for line, row in rows:
        if len(row) != len(COLUMNS):
            raise GiustoError(f"line {line} has {len(row)} fields, allowed are {len(COLUMNS)}", code="row")
        at.append(_at(row[0], line))
        values.append(_number(row[1], f"line {line}: value", -MOST))
        sds.append(_number(row[2], f"line {line}: sd", 0.0))
        if len(at) > 1 and at[-1] < at[-2]:
            raise GiustoError(f"line {line}: at must ascend, {row[0][:40]} comes after a later one", code="order")
    return FiguresOfTakes(at, np.array(values), np.array(sds))


def _at(text: str, line: int) -> datetime:
    found = moment(text, f"line {line}: at")
    if not FIRST_YEAR <= found.year <= LAST_YEAR:
        raise GiustoError(f'line {line}: at is "{text[:40]}", allowed are {FIRST_YEAR} to {LAST_YEAR}', code="time")
    return found


def _number(text: str, where: str, least: float) -> float:
    try:
        found = float(text)
    except ValueError:
        found = float("nan")
    if not least <= found <= MOST or "_" in text:
        raise GiustoError(f'{where} is "{text[:40]}", allowed is a number from {least:g} to {MOST:g}', code="number")
    return found
