"""The onsets of a take as CSV: ``time_s``, and perhaps ``strength`` and ``label``.

RFC 4180: a header, one onset a line, a dot as decimal sign.
"""

from __future__ import annotations

import csv
import io
import re

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.onsets import checked_onsets

COLUMNS = ("time_s", "strength", "label")
_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?")


def parse_onsets(text: str | bytes) -> FloatArray:
    r"""Read the onsets of a take.

    Parameters
    ----------
    text : str or bytes
        CSV, UTF-8.

    Returns
    -------
    array of float, shape (n,)
        Seconds from the drill's time zero, ascending.

    Raises
    ------
    GiustoError
        With the line and what is allowed there.

    Examples
    --------
    >>> parse_onsets("time_s\r\n2.488300\r\n2.805100\r\n")
    array([2.4883, 2.8051])
    """
    if isinstance(text, bytes):
        try:
            text = text.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise GiustoError(f"the onsets are not UTF-8 text (byte {error.start})", code="not_csv") from None
    rows = csv.reader(io.StringIO(text, newline=""), strict=True)
    times: list[float] = []
    lines: list[int] = []
    try:
        header = [name.strip() for name in next(rows, [])]
        _check_header(header)
        for row in rows:
            if row:
                times.append(_onset(row, header, rows.line_num))
                lines.append(rows.line_num)
    except csv.Error as error:
        raise GiustoError(f"not CSV at line {rows.line_num}: {error}", code="not_csv") from None
    return checked_onsets(times, lines=lines)


def write_onsets(onsets_s: FloatArray) -> str:
    r"""Return onsets as CSV, to a nanosecond.

    Examples
    --------
    >>> import numpy as np
    >>> write_onsets(np.array([2.4883]))
    'time_s\r\n2.488300000\r\n'
    """
    return "time_s\r\n" + "".join(f"{onset:.9f}\r\n" for onset in onsets_s.tolist())


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


def _onset(row: list[str], header: list[str], line: int) -> float:
    if len(row) != len(header):
        message = f"line {line} has {len(row)} fields, allowed are the header's {len(header)}"
        raise GiustoError(message, code="fields")
    fields = dict(zip(header, row, strict=True))
    if fields.get("strength", "").strip() and not 0 <= _number(fields["strength"], line, "strength") <= 1:
        raise GiustoError(f"line {line}: strength is {fields['strength'][:40]}, allowed is 0 to 1", code="range")
    return _number(fields["time_s"], line, "time_s")


def _number(text: str, line: int, name: str) -> float:
    if not _NUMBER.fullmatch(text.strip()):
        message = f'line {line}: {name} is "{text[:40]}", allowed is a number such as 2.488300'
        raise GiustoError(message, code="not_a_number")
    return float(text)
