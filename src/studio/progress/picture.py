"""The pictures of progress: threads that hang as long as what is held, figures week by week, rungs with their dates."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from math import ceil, floor, log2

from giusto.practice.over_takes.reaches import ReachAt
from giusto.practice.over_takes.weekly import WeekOf
from studio.progress.weeks import Figure
from studio.reach.words import beats_alone, beats_number, bound_of, short_words

CURVE_TOP, CURVE_ROOM = 56.0, 330.0  # px: where the threads hang from, and how far down the scale reaches
FEW_SILENCES = 30  # ours: with fewer, a length is a ring
LEAN_W, LEAN_LEFT, LEAN_ROW, LEAN_TOP = 330.0, 58.0, 23.0, 34.0
SMALL_W, SMALL_H, SMALL_LEFT = 300.0, 24.0, 58.0
LEAST_LEAN = 1.0  # percent: what half the width of the leans stands for, unless more is needed


@dataclass(frozen=True, slots=True)
class HungTempo:
    """A tempo: how long a silence is held near it, and how sure that is.

    Attributes
    ----------
    x, y : float
        Where its thread hangs, and where it ends.
    bpm, silences : int
    band : (float, float)
        Upper edge and height of the range.
    is_few : bool
        Whether it rests on so few silences that it is a ring.
    label, ends : str
        What is held, and its range, for the one that is told of.
    is_told : bool
    """

    x: float
    y: float
    bpm: int
    silences: int
    band: tuple[float, float]
    is_few: bool
    label: str
    ends: str
    is_told: bool

    @property
    def below(self) -> float:
        """Where its range ends, or its thread."""
        return round(max(self.y + 8, self.band[0] + self.band[1]), 1)


@dataclass(frozen=True, slots=True)
class Curve:
    """The tempos side by side, the fastest first, and the way from thread to thread."""

    name: str
    width: float
    height: float
    left: float
    top: float
    half: float
    lengths: list[tuple[float, str]]
    hung: list[HungTempo]

    @property
    def steps(self) -> list[tuple[str, bool]]:
        """The way from each thread to the next, and whether one of the two rests on few silences."""
        pairs = pairwise(self.hung)
        return [(f"M{a.x} {a.y}L{b.x} {b.y}", a.is_few or b.is_few) for a, b in pairs]


@dataclass(frozen=True, slots=True)
class CurveSize:
    """How a curve is laid out at one width of page."""

    name: str
    width: float
    left: float
    half: float
    most: int


WIDE = CurveSize("wide", 774.0, 56.0, 20.0, 8)
PHONE = CurveSize("phone", 350.0, 44.0, 11.0, 6)


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


def draw_curve(found: Sequence[ReachAt], told: ReachAt, size: CurveSize) -> Curve:
    """Return how long a silence is held by tempo, the one that is told of among them."""
    ordered = [told, *(at for at in found if at.bpm != told.bpm)][: size.most]
    some = sorted(ordered, key=lambda at: -at.bpm)
    ends = [beats_alone(end) for at in some for end in at.reach.ci95_beats or ()]
    low, high = floor(log2(max(min(ends, default=1.0), 0.5))), ceil(log2(max(ends, default=4.0)))
    high = max(high, low + 2)
    row = CURVE_ROOM / (high - low)

    def hangs(alone: float) -> float:
        return round(CURVE_TOP + row * (min(max(log2(max(alone, 0.5)), low), high) - low) + 16, 1)

    def y(length: float) -> float:
        return hangs(beats_alone(length))

    apart = (size.width - size.left) / len(some)
    hung = [_hung(at, round(size.left + apart * (index + 0.5), 1), y, at is told) for index, at in enumerate(some)]
    scale = [(hangs(2.0**k), f"{2.0**k:g}") for k in range(low, high + 1)]
    return Curve(size.name, size.width, hangs(2.0**high) + 56, size.left, CURVE_TOP, size.half, scale, hung)


def _hung(at: ReachAt, x: float, y: Callable[[float], float], is_told: bool) -> HungTempo:
    found = at.reach
    low, high = found.ci95_beats or (1.0, 1.0)
    told = bound_of(found)
    return HungTempo(
        x=x,
        y=y(told[1] if told else low),
        bpm=round(at.bpm),
        silences=found.silences,
        band=(y(low), round(y(high) - y(low), 1)),
        is_few=found.silences < FEW_SILENCES or found.bounded is not None,
        label=short_words(at),
        ends=f"{beats_number(low)} to {beats_number(high)}",
        is_told=is_told,
    )


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
