"""A line of the log: what was played, how the silences came out, and a small thread."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from studio.takes.models import Silence, Take
from studio.takes.thread import path_of

THREAD_W, THREAD_H = 72.0, 34.0
MOST_CHIPS = 6


@dataclass(frozen=True, slots=True)
class LogLine:
    """One take in the log."""

    take: Take
    returns: list[Silence]
    more: int
    became: float | None
    place_ms: float | None
    spread_ms: float | None
    thread: str


def lines(takes: Iterable[Take]) -> list[LogLine]:
    """Return the lines of a page of the log."""
    return [_line(take) for take in takes]


def _line(take: Take) -> LogLine:
    silences = list(take.silences.all())
    reading = getattr(take, "reading", None)
    alone_bpm = reading.alone_bpm if reading else None
    thread = path_of(reading.sketch, width=THREAD_W, height=THREAD_H) if reading and reading.sketch else ""
    place_ms, spread_ms = (reading.heard_ms, reading.heard_sd_ms) if reading else (None, None)
    more = max(len(silences) - MOST_CHIPS, 0)
    return LogLine(take, silences[:MOST_CHIPS], more, alone_bpm, place_ms, spread_ms, thread)
