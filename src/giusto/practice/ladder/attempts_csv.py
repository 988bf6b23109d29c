"""Attempts on a ladder, as CSV: ``at,rung,clean,minutes``, optionally ``off`` and ``chance``."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from itertools import pairwise

from giusto.errors import GiustoError
from giusto.notes.csv_rows import csv_rows

COLUMNS = ("at", "rung", "clean", "minutes")
MORE = ("off", "chance")
MORE_COLUMNS: tuple[list[str], ...] = ([], ["off"], ["chance"], ["chance", "off"])
NUMBER = re.compile(r"[0-9]{1,9}(\.[0-9]{0,9})?|\.[0-9]{1,9}")
MOMENT = re.compile(
    r"[0-9]{4}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}(:[0-9]{2}([.,][0-9]{1,9})?)?(Z|[+-][0-9]{2}:?[0-9]{2})"
)


@dataclass(frozen=True, slots=True)
class Attempt:
    """One attempt on a rung.

    Attributes
    ----------
    at : datetime
        With its offset.
    rung : int
        From 1.
    clean : bool or None
        None where it is open: one take tells too little.
    minutes : float
    off : bool
        Whether the player called its day an off day.
    easy : bool
        Whether it lay far inside its limits (``giusto.practice.clean.is_easy``); a file doesn't say.
    chance : float or None
        That it was truly clean; None where nobody measured it.
    """

    at: datetime
    rung: int
    clean: bool | None
    minutes: float
    off: bool = False
    easy: bool = False
    chance: float | None = None

    @property
    def cleanness(self) -> float:
        """How far it counts as clean among others: its chance, where that is known."""
        return float(self.clean is True) if self.chance is None else self.chance

    @property
    def day(self) -> date:
        """The local date written in ``at``."""
        return self.at.date()


def parse_attempts(text: str | bytes, *, rungs: int) -> list[Attempt]:
    """Read attempts on a ladder of so many rungs.

    Parameters
    ----------
    text : str or bytes
        CSV, UTF-8; ``at`` ascending, each with an offset.
    rungs : int

    Returns
    -------
    list of Attempt

    Raises
    ------
    GiustoError
        With the line, what was found and what is allowed.
    """
    header, rows = csv_rows(text, "the attempts")
    if header[: len(COLUMNS)] != [*COLUMNS] or sorted(header[len(COLUMNS) :]) not in MORE_COLUMNS:
        allowed = f'"{",".join(COLUMNS)}", optionally with ",off" and ",chance"'
        raise GiustoError(f'line 1 must be {allowed}, found "{",".join(header)[:80]}"', code="header")
    found = [_attempt(row, header, line, rungs) for line, row in rows]
    _check_order(found)
    return found


def write_attempts(attempts: Sequence[Attempt]) -> str:
    """Return attempts as the file has them, with ``off``, and ``chance`` where any has one.

    Examples
    --------
    >>> write_attempts([Attempt(moment("2026-11-26T18:40:00+01:00", "at"), 3, True, 2.5)]).splitlines()[1]
    '2026-11-26T18:40:00+01:00,3,1,2.5,0'
    """
    has_chances = any(one.chance is not None for one in attempts)
    header = [*COLUMNS, *(MORE if has_chances else MORE[:1])]
    rows = [",".join(_fields(one)[: len(header)]) for one in attempts]
    return "".join(f"{row}\n" for row in (",".join(header), *rows))


def _fields(one: Attempt) -> list[str]:
    clean = "" if one.clean is None else f"{one.clean:d}"
    chance = "" if one.chance is None else f"{one.chance:g}"
    return [one.at.isoformat(), f"{one.rung}", clean, f"{round(one.minutes, 3):g}", f"{one.off:d}", chance]


def moment(text: str, where: str) -> datetime:
    """Return an ISO 8601 time with its offset.

    Examples
    --------
    >>> moment("2026-11-26T18:40:00+01:00", "at").isoformat()
    '2026-11-26T18:40:00+01:00'
    """
    try:
        if MOMENT.fullmatch(text.strip()):
            return datetime.fromisoformat(text.strip().replace(",", "."))
    except ValueError:
        pass
    allowed = "ISO 8601 with an offset such as 2026-11-26T18:40:00+01:00"
    raise GiustoError(f'{where} is "{text[:40]}", allowed is {allowed}', code="time") from None


def _attempt(row: list[str], header: list[str], line: int, rungs: int) -> Attempt:
    if len(row) != len(header):
        raise GiustoError(f"line {line} has {len(row)} fields, allowed are {len(header)}", code="width")
    fields = {name: text.strip() for name, text in zip(header, row, strict=True)}
    rung, minutes = fields["rung"], fields["minutes"]
    if not re.fullmatch(r"[0-9]{1,9}", rung) or not 1 <= int(rung) <= rungs:
        raise GiustoError(f'line {line}: rung is "{rung[:40]}", allowed is 1 to {rungs}', code="rung")
    if not NUMBER.fullmatch(minutes):
        raise GiustoError(f'line {line}: minutes is "{minutes[:40]}", allowed is a number such as 2.5', code="minutes")
    chance = _chance(fields.get("chance", ""), f"line {line}: chance")
    is_open = chance is not None and not fields["clean"]
    return Attempt(
        at=moment(fields["at"], f"line {line}: at"),
        rung=int(rung),
        clean=None if is_open else _yes(fields["clean"], f"line {line}: clean"),
        minutes=float(minutes),
        off=_yes(fields.get("off", "0") or "0", f"line {line}: off"),
        chance=chance,
    )


def _chance(text: str, where: str) -> float | None:
    if not text:
        return None
    if not NUMBER.fullmatch(text) or float(text) > 1:
        raise GiustoError(f'{where} is "{text[:40]}", allowed is 0 to 1, or nothing', code="chance")
    return float(text)


def _yes(text: str, where: str) -> bool:
    if text not in ("0", "1"):
        raise GiustoError(f'{where} is "{text[:40]}", allowed is 1 or 0', code="yes")
    return text == "1"


def _check_order(found: Sequence[Attempt]) -> None:
    for number, (a, b) in enumerate(pairwise(found), start=2):
        if b.at < a.at:
            text = f"attempts must ascend: {b.at.isoformat()} comes after {a.at.isoformat()}, attempt {number}"
            raise GiustoError(text, code="not_ascending")
