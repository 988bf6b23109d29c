"""The rows of a CSV file: RFC 4180, UTF-8, a header first."""

from __future__ import annotations

import csv
import io

from giusto.errors import GiustoError


def csv_rows(text: str | bytes, what: str) -> tuple[list[str], list[tuple[int, list[str]]]]:
    """Return the names in the header, and each row that is not empty with the line it ends on.

    Parameters
    ----------
    text : str or bytes
    what : str
        What the file holds, for the error: ``the onsets``.

    Raises
    ------
    GiustoError
        ``not_csv``.
    """
    if isinstance(text, bytes):
        try:
            text = text.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise GiustoError(f"{what} are not UTF-8 text (byte {error.start})", code="not_csv") from None
    rows = csv.reader(io.StringIO(text, newline=""), strict=True)
    try:
        header = [name.strip() for name in next(rows, [])]
        return header, [(rows.line_num, row) for row in rows if row]
    except csv.Error as error:
        raise GiustoError(f"not CSV at line {rows.line_num}: {error}", code="not_csv") from None
