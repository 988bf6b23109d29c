"""The pictures of progress: threads that hang as long as what is held, figures week by week, rungs with their dates."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from math import ceil, floor, log2

from giusto.practice.over_takes.reaches import ReachAt
from giusto.practice.over_takes.weekly import WeekOf
from giusto.practice.reach.by_drift import HELD_USUALLY
from giusto.tempo import slot_ms
from studio.progress.weeks import Figure
from studio.sheet.words import NBSP

LEFT, TOP, ROW, COLUMN = 50.0, 60.0, 62.0, 72.0
BELOW = 22.0
LEAN_W, LEAN_LEFT, LEAN_ROW, LEAN_TOP = 350.0, 58.0, 43.0, 52.0
SMALL_W, SMALL_H, SMALL_LEFT = 300.0, 24.0, 58.0
LEAST_LEAN = 1.0  # percent: what half the width of the leans stands for, unless more is needed
MARKS_APART = 16.0


@dataclass(frozen=True, slots=True)
class TriedMark:
    """Where a thread passes a length that was tried: the chance to hold it, and whether that is two in three."""

    y: float
    text: str
    is_held: bool


@dataclass(frozen=True, slots=True)
class HeldThread:
    """A tempo: its thread, as far as it is held, on to what was tried; and the range of where it ends."""

    x: float
    tempo: int
    held_y: float | None
    tried_y: float
    band: tuple[float, float]
    marks: list[TriedMark]


@dataclass(frozen=True, slots=True)
class Threads:
    """All threads under their tempos."""

    width: float
    height: float
    top: float
    lengths: list[tuple[float, str]]
    threads: list[HeldThread]


@dataclass(frozen=True, slots=True)
class WeekRow:
    """A week of a figure, down the page."""

    y: float
    label: str
    takes: int
    x: float | None
    low: float
    high: float
    side: str
    text: str
    notes: str

    @property
    def width(self) -> float:
        """How wide its range is drawn."""
        return round(self.high - self.low, 1)


@dataclass(frozen=True, slots=True)
class Weeks:
    """A figure week by week about its vertical."""

    width: float
    height: float
    zero: float
    left: float
    right: float
    rows: list[WeekRow]
    path: str
    axis: list[tuple[float, str]]

    @property
    def bottom(self) -> float:
        """Where the vertical ends, above the axis."""
        return self.height - 26


def draw_held(found: Sequence[ReachAt], *, in_seconds: bool) -> Threads | None:
    """Return the threads, the slowest tempo first; None where nothing was tried."""
    if not found:
        return None
    some = sorted(found, key=lambda at: at.bpm)
    lengths = [_unit(at, in_seconds=in_seconds) * one.beats for at in some for one in at.tried]
    low, high = floor(log2(min(lengths))), ceil(log2(2 * max(lengths)))
    frame = _Frame(low, high)
    xs = [LEFT + 26 + COLUMN * index for index in range(len(some))]
    threads = [_thread(at, x, frame, _unit(at, in_seconds=in_seconds)) for at, x in zip(some, xs, strict=True)]
    scale = [(frame.y(2.0**k), _length(2.0**k, in_seconds=in_seconds)) for k in range(low, high + 1)]
    return Threads(LEFT + 26 + COLUMN * len(some), frame.y(2.0**high) + BELOW, TOP, scale, threads)


def draw_leans(figure: Figure, notes: dict[date, list[str]]) -> Weeks:
    """Return the lean week by week: a lean is told as a tempo, and faster, which is rushing, hangs to the left."""
    most = max([LEAST_LEAN, *(abs(end) for point in figure.points for end in point.ci95 or ())])
    left, right = LEAN_LEFT + 6, LEAN_W - 36
    zero, half = (left + right) / 2, (right - left) / 2
    rows = [
        _row(point, LEAN_TOP + LEAN_ROW * (index + 0.5), lambda percent: zero - percent / most * half, notes=notes)
        for index, point in enumerate(figure.points)
    ]
    step = next(step for step in (0.5, 1.0, 2.0, 5.0, 50.0) if most <= 3 * step or step == 50.0)
    marks = [k * step for k in range(-int(most / step), int(most / step) + 1)]
    axis = [(round(zero + at / most * half, 1), f"{abs(at):g} %" if at else "0") for at in marks]
    height = LEAN_TOP + LEAN_ROW * len(rows) + 30
    return Weeks(LEAN_W, height, zero, left, right, rows, _path(rows), axis)


def draw_small(figure: Figure) -> Weeks:
    """Return a figure week by week in little room; its scale begins at nothing for sizes."""
    ends = [end for point in figure.points for end in point.ci95 or ()]
    low, high = (min([0.0, *ends]), max([0.0, *ends])) if ends else (0.0, 1.0)
    room = (high - low) or 1.0
    left, right = SMALL_LEFT, SMALL_W - 44

    def across(value: float) -> float:
        return left + (value - low) / room * (right - left)

    rows = [_row(point, 14 + SMALL_H * (index + 0.5), across) for index, point in enumerate(figure.points)]
    axis = [(across(low), f"{low:.3g}".replace("-", "−")), (across(high), f"{high:.3g}".replace("-", "−"))]
    return Weeks(SMALL_W, 14 + SMALL_H * len(rows) + 22, across(0.0), left, right, rows, _path(rows), axis)


@dataclass(frozen=True, slots=True)
class _Frame:
    """Lengths down the page, an octave a row."""

    low: int
    high: int

    def y(self, length: float) -> float:
        """Return how far down a length hangs."""
        return round(TOP + ROW * (1 + min(max(log2(length), self.low), self.high) - self.low), 1)


def _thread(at: ReachAt, x: float, frame: _Frame, unit: float) -> HeldThread:
    found = at.reach
    ends = found.ci95_beats or (1.0, 1.0)
    band_y = [frame.y(unit * end) for end in ends]
    marks: list[TriedMark] = []
    for one in at.tried:
        y = frame.y(unit * one.beats)
        text = f"{100 * one.chance:.0f}{NBSP}%" if not marks or y - marks[-1].y >= MARKS_APART else ""
        marks.append(TriedMark(y, text, one.chance >= HELD_USUALLY))
    return HeldThread(
        x=x,
        tempo=round(at.bpm),
        held_y=frame.y(unit * found.beats) if found.beats else None,
        tried_y=max(mark.y for mark in marks),
        band=(band_y[0], round(band_y[1] - band_y[0], 1)),
        marks=marks,
    )


def _unit(at: ReachAt, *, in_seconds: bool) -> float:
    """Return how long a beat is, in the unit that is shown."""
    return slot_ms(at.bpm, 1) / 1000 if in_seconds else 1.0


def _length(length: float, *, in_seconds: bool) -> str:
    if not in_seconds:
        return f"{length:g}"
    return f"{length:g} s" if length < 60 else f"{length / 60:.1f} min"


def _row(
    point: WeekOf, y: float, across: Callable[[float], float], *, notes: dict[date, list[str]] | None = None
) -> WeekRow:
    """Return a week; a lean, which has notes, says its side where it is sure."""
    said = ", ".join((notes or {}).get(point.monday, []))
    label = f"{point.monday:%-d %b}"
    if point.value is None or point.ci95 is None:
        few = "too few to say" if point.takes else ""
        return WeekRow(y, label, point.takes, None, 0.0, 0.0, "", few, said)
    low, high = sorted(across(end) for end in point.ci95)
    is_sure = notes is not None and (point.ci95[0] > 0 or point.ci95[1] < 0)
    side = ("early" if point.value > 0 else "late") if is_sure else ""
    text = (f"{point.value:.2f}" if abs(point.value) < 1 else f"{point.value:.1f}").replace("-", "−")
    x = round(across(point.value), 1)
    return WeekRow(y, label, point.takes, x, round(low, 1), round(high, 1), side, text, said)


def _path(rows: Sequence[WeekRow]) -> str:
    some = [(row.x, row.y) for row in rows if row.x is not None]
    return "M" + "L".join(f"{x} {y}" for x, y in some) if len(some) > 1 else ""
