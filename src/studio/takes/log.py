"""A line of the log: what was played, how the silences came out, and a small thread."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from studio.sheet.plumb import seen
from studio.takes.models import Reading, Silence, Take

THREAD_W, THREAD_H, THREAD_MS, THREAD_POINTS = 72.0, 34.0, 100.0, 40
MOST_CHIPS = 6


@dataclass(frozen=True, slots=True)
class Line:
    """One take in the log."""

    take: Take
    returns: list[Silence]
    more: int
    became: float | None
    thread: str


def lines(takes: Iterable[Take]) -> list[Line]:
    """Return the lines of a page of the log."""
    return [_line(take) for take in takes]


def _line(take: Take) -> Line:
    silences = list(take.silences.all())
    reading = getattr(take, "reading", None)
    alone_bpm = reading.alone_bpm if reading else None
    return Line(take, silences[:MOST_CHIPS], max(len(silences) - MOST_CHIPS, 0), alone_bpm, _thread(reading))


def _thread(reading: Reading | None) -> str:
    """Return a small thread: the clock down the take, early left, late right."""
    if reading is None or reading.hanging is None:
        return ""
    first, last = seen(reading.hanging)
    clock = reading.hanging.clock_ms[first : last + 1].tolist()
    step = max(1, len(clock) // THREAD_POINTS)
    extent = max(THREAD_MS, *(abs(ms) for ms in clock))
    shown = clock[::step]
    points = [
        f"{THREAD_W / 2 + ms / extent * THREAD_W / 2:.1f} {2 + (THREAD_H - 4) * k / max(len(shown) - 1, 1):.1f}"
        for k, ms in enumerate(shown)
    ]
    return "M" + "L".join(points)
