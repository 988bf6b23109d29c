"""A line of the log: what was played, how the silences came out, and a small thread."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from giusto.tempo import held_tempo_bpm
from studio.takes.models import Silence, Take

THREAD_W, THREAD_H, THREAD_MS = 72.0, 34.0, 100.0


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
    read = [s for s in silences if s.drift_ms is not None]
    held = None
    if read:
        asked_s = sum(s.end_s - s.start_s for s in read)
        drift_s = sum(s.drift_ms or 0.0 for s in read) / 1000
        held = held_tempo_bpm(take.tempo_bpm, asked_s=asked_s, drift_s=drift_s)
    return Line(take, silences[:6], max(len(silences) - 6, 0), held, _thread(take))


def _thread(take: Take) -> str:
    """Return a small thread: the clock down the take, early left, late right."""
    reading = getattr(take, "reading", None)
    if reading is None or not reading.thread:
        return ""
    seen = [i for i, note in enumerate(reading.thread["note_ms"]) if note is not None]
    clock = reading.thread["clock_ms"][seen[0] : seen[-1] + 1]
    step = max(1, len(clock) // 40)
    reach = max(THREAD_MS, *(abs(ms) for ms in clock))
    shown = clock[::step]
    points = [
        f"{THREAD_W / 2 + ms / reach * THREAD_W / 2:.1f} {2 + (THREAD_H - 4) * k / max(len(shown) - 1, 1):.1f}"
        for k, ms in enumerate(shown)
    ]
    return "M" + "L".join(points)
