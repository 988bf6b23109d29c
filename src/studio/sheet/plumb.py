"""The plumb line: the player's clock hanging beside the sheet, early left, late right."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from giusto.arrays import IntArray
from giusto.figures.silence import SilenceReading, held_limit_ms
from giusto.reading import Reading, Thread
from giusto.schedule import Schedule
from studio.sheet.layout import Columns, Rows
from studio.sheet.rows import first_withheld
from studio.sheet.words import became, returned, returned_in_beats, spread

STEPS_MS = (50, 100, 200, 400)
STEPS_BEATS = (1, 2, 4, 8)
AXIS_MS = {50: 15, 100: 30, 200: 60, 400: 120}
FULL_LABEL, LINE_LABEL, SIGN = 44.0, 17.0, 13.0  # px between returns: two lines, one line, a sign; else a comb
CLASSES = {"held": "steady", "early": "early", "late": "late", "edge": "edge", "unreadable": "unread"}
Point = tuple[float, float]

COMB = 6.0  # px between returns below which only these are drawn, and no thread
LEAST_APART = 1.5  # px: a long take has ten moments a pixel, and they would make a page of megabytes
LEAST_APART_HAIRS = 3.0  # px: a very long one


@dataclass(frozen=True, slots=True)
class Scale:
    """How many milliseconds the plumb line's half width stands for."""

    half_ms: float
    beat_ms: float
    in_beats: bool
    zero_x: float
    half_w: float

    def x(self, ms: float) -> float:
        """Return the place of an error on the page, never beyond the panel by more than a hair."""
        share = min(max(ms / self.half_ms, -1.03), 1.03)
        return self.zero_x + share * self.half_w


@dataclass(frozen=True, slots=True)
class AxisMark:
    """A figure under the plumb line: how far from the place, with its unit at zero; the side is the picture's."""

    x: float
    text: str


@dataclass(frozen=True, slots=True)
class Strand:
    """A piece of the thread: with the click, or through one silence."""

    kind: str
    line: str
    band: str
    alone: bool


@dataclass(frozen=True, slots=True)
class Bob:
    """What hangs at a returning click, and what stands beside it; one of many is a tooth of a comb."""

    kind: str
    shape: str
    is_tooth: bool
    line: str
    pin: Point | None
    x: float
    y: float
    title: str
    label_x: float
    anchor: str
    number: str
    number_dy: int
    below: list[str]


@dataclass(frozen=True, slots=True)
class Plumb:
    """The plumb line as plain values."""

    zero_x: float
    left: float
    right: float
    limits: list[float]
    beat_lines: list[float]
    axis: list[AxisMark]
    factor: int
    strands: list[Strand]
    bobs: list[Bob]
    dots: str


def choose_scale(plan: Schedule, columns: Columns, thread: Thread | None) -> Scale:
    """Return the smallest scale that holds the whole thread with its range."""
    beat_ms = plan.beat_s * 1000
    extent = 0.0
    if thread:
        first, last = seen(thread)
        extent = float(np.max(np.abs(thread.clock_ms[first : last + 1]) + thread.half_ms[first : last + 1]))
    for step in STEPS_MS:
        if extent <= step:
            return Scale(step, beat_ms, False, columns.zero_x, columns.half_w)
    beats = next((b for b in STEPS_BEATS if extent <= b * beat_ms), STEPS_BEATS[-1])
    return Scale(beats * beat_ms, beat_ms, True, columns.zero_x, columns.half_w)


def seen(thread: Thread) -> tuple[int, int]:
    """Return the first and the last moment at which a note was caught."""
    caught = np.flatnonzero(np.isfinite(thread.note_ms))
    return int(caught[0]), int(caught[-1])


def draw_plumb(
    plan: Schedule,
    columns: Columns,
    rows: Rows,
    *,
    reading: Reading | None = None,
    thread: Thread | None = None,
) -> Plumb:
    """Lay out the plumb line of a plan, with the thread of a take where one is given.

    Parameters
    ----------
    plan : Schedule
    columns : Columns
    rows : Rows
    reading : Reading, optional
    thread : Thread, optional
        Without them only the true vertical hangs.

    Returns
    -------
    Plumb
    """
    scale = choose_scale(plan, columns, thread)
    limit_ms = held_limit_ms(plan.drill.tempo.bpm)
    cycle_ms = plan.mean_beat_s * plan.drill.cycle.beats * 1000
    narrow = columns.margin_x < 0
    is_comb = _apart_returns(plan, rows) < COMB
    return Plumb(
        zero_x=columns.zero_x,
        left=columns.zero_x - columns.half_w,
        right=columns.band_right,
        limits=[] if scale.in_beats or limit_ms > scale.half_ms else [scale.x(-limit_ms), scale.x(limit_ms)],
        beat_lines=_beat_lines(scale) if scale.in_beats else [],
        axis=axis_of(scale, every_other=narrow),
        factor=round(columns.half_w / scale.half_ms / (columns.sheet_w / cycle_ms)) if columns.has_sheet else 1,
        strands=_strands(plan, rows, scale, reading, thread) if reading and thread and not is_comb else [],
        bobs=_bobs(plan, columns, rows, scale, reading, thread) if reading and thread else [],
        dots=_dots(rows, scale, thread) if thread and not rows.is_hairs else "",
    )


def axis_of(scale: Scale, *, every_other: bool) -> list[AxisMark]:
    """Return the figures that stand under the plumb line."""
    if scale.in_beats:
        whole = round(scale.half_ms / scale.beat_ms)
        steps = [s * max(1, whole // 2) for s in range(-2, 3)] if whole > 1 else [-1, -0.5, 0, 0.5, 1]
        return [AxisMark(scale.x(s * scale.beat_ms), _apart_words(s, "beats")) for s in steps if abs(s) <= whole]
    step = AXIS_MS[int(scale.half_ms)]
    turns = (-2, 0, 2) if every_other else range(-3, 4)
    return [AxisMark(scale.x(k * step), _apart_words(k * step, "ms")) for k in turns]


def _beat_lines(scale: Scale) -> list[float]:
    whole = round(scale.half_ms / scale.beat_ms)
    return [scale.x(k * scale.beat_ms) for k in range(-whole, whole + 1) if k]


def _apart_words(value: float, unit: str) -> str:
    return f"{abs(value):g}" if value else f"0 {unit}"


def _strands(plan: Schedule, rows: Rows, scale: Scale, reading: Reading, thread: Thread) -> list[Strand]:
    ticks = thread.tick
    first, last = seen(thread)
    cuts: list[tuple[int, int, str, bool]] = []
    at = first
    for silence, read in zip(plan.silences, reading.silences, strict=True):
        start = first_withheld(plan, silence.start_tick, silence.end_tick)
        a = max(_index(ticks, start), first)
        b = min(_index(ticks, silence.end_tick), last)
        if a >= b:
            continue
        if a > at:
            cuts.append((at, a, "steady", False))
        cuts.append((a, b, CLASSES[read.outcome], True))
        at = b
    if at < last:
        cuts.append((at, last, "steady", False))
    return [strand_of(rows, scale, thread, *cut) for cut in cuts]


def strand_of(rows: Rows, scale: Scale, thread: Thread, a: int, b: int, kind: str, alone: bool) -> Strand:
    """Return the piece of the thread between two moments, with its range."""
    least = LEAST_APART_HAIRS if rows.is_hairs else LEAST_APART
    kept = _apart([rows.y(tick) for tick in thread.tick[a : b + 1].tolist()], least)
    ys = [y for _, y in kept]
    clock, half = ([float(of[a + k]) for k, _ in kept] for of in (thread.clock_ms, thread.half_ms))
    line = list(zip([scale.x(c) for c in clock], ys, strict=True))
    right = list(zip([scale.x(c + h) for c, h in zip(clock, half, strict=True)], ys, strict=True))
    left = list(zip([scale.x(c - h) for c, h in zip(clock, half, strict=True)], ys, strict=True))
    drawn = _polyline(line) if rows.is_hairs else _curve(line)
    return Strand(kind, drawn, f"{_polyline(right)}L{_polyline(left[::-1])[1:]}Z", alone)


def _apart(ys: list[float], least: float) -> list[tuple[int, float]]:
    """Return the moments that the eye can tell apart, the first and the last among them, with their heights."""
    kept = [(0, ys[0])]
    for k, y in enumerate(ys[1:-1], start=1):
        if y - kept[-1][1] >= least:
            kept.append((k, y))
    return [*kept, (len(ys) - 1, ys[-1])]


def _apart_returns(plan: Schedule, rows: Rows) -> float:
    """Return how far apart the returns hang, in px, where they are closest."""
    ends = [rows.y(s.end_tick) for s in plan.silences]
    return min((b - a for a, b in pairwise(ends)), default=1000.0)


def _bobs(plan: Schedule, columns: Columns, rows: Rows, scale: Scale, reading: Reading, thread: Thread) -> list[Bob]:
    apart = _apart_returns(plan, rows)
    frame = Frame(plan, columns, rows, scale, thread)
    return [bob_of(frame, number, silence, apart) for number, silence in enumerate(reading.silences, start=1)]


@dataclass(frozen=True, slots=True)
class Frame:
    """What a bob hangs in: the drill, the columns and rows of the picture, its scale and its thread."""

    plan: Schedule
    columns: Columns
    rows: Rows
    scale: Scale
    thread: Thread

    def clock_ms(self, tick: int) -> float:
        """Return where the clock stood at a tick, or at the moment before it."""
        return float(self.thread.clock_ms[_index(self.thread.tick, tick)])


def bob_of(frame: Frame, number: int, silence: SilenceReading, apart: float) -> Bob:
    """Return what hangs at the return of a silence, counted from 1; ``apart`` is the room to the next."""
    span, scale, columns = frame.plan.silences[number - 1], frame.scale, frame.columns
    kind, y, ms = CLASSES[silence.outcome], frame.rows.y(span.end_tick), silence.return_ms
    x = scale.x(ms if ms is not None else frame.clock_ms(span.end_tick) if silence.notes else 0.0)
    pin_tick = first_withheld(frame.plan, span.start_tick, span.end_tick)
    inside, is_tooth = columns.margin_x < 0, apart < SIGN
    below = _below(frame, number, silence)
    line_x = scale.zero_x if inside or is_tooth else min(x, scale.zero_x)
    text = returned_in_beats(silence, scale.beat_ms) if scale.in_beats else returned(silence)
    return Bob(
        kind=kind,
        shape=_shape(kind, x, y) if not is_tooth else "",
        is_tooth=is_tooth,
        line=f"M{line_x:.1f} {y:.1f}H{x if inside or is_tooth else columns.margin_x - 8:.1f}",
        pin=None if frame.rows.is_hairs or is_tooth else (scale.x(frame.clock_ms(pin_tick)), frame.rows.y(pin_tick)),
        x=x,
        y=y,
        title=""
        if is_tooth
        else f"Silence {number}: {', '.join([returned(silence), *filter(None, [spread(silence)]), *below])}",
        label_x=columns.margin_x if not inside else scale.zero_x + (8 if x < scale.zero_x else -8),
        anchor="end" if inside and x >= scale.zero_x else "start",
        number=text if apart >= LINE_LABEL else "",
        number_dy=-5 if inside else 8 if apart >= FULL_LABEL else 5,
        below=below if apart >= FULL_LABEL and not inside else [],
    )


def _below(frame: Frame, number: int, silence: SilenceReading) -> list[str]:
    """Return the lines that stand under a bob's number."""
    asked = frame.plan.silences[number - 1]
    if silence.return_ms is None:
        return [f"{silence.notes} of {frame.plan.asked_in(asked)} notes"]
    return [became(silence, frame.plan.bpm_in(asked))]


def _shape(kind: str, x: float, y: float) -> str:
    if kind == "late":
        return f"M{x + 7:.1f} {y:.1f}L{x - 5:.1f} {y - 6.5:.1f}V{y + 6.5:.1f}Z"
    if kind == "early":
        return f"M{x - 7:.1f} {y:.1f}L{x + 5:.1f} {y - 6.5:.1f}V{y + 6.5:.1f}Z"
    if kind == "steady":
        return f"M{x:.1f} {y + 7:.1f}L{x - 6.5:.1f} {y - 5:.1f}H{x + 6.5:.1f}Z"
    return ""


def _dots(rows: Rows, scale: Scale, thread: Thread) -> str:
    return "".join(
        f"M{scale.x(ms):.1f} {rows.y(tick):.1f}h0"
        for ms, tick in zip(thread.note_ms.tolist(), thread.tick.tolist(), strict=True)
        if abs(ms) <= scale.half_ms  # none where no note was caught: NaN is not
    )


def _index(ticks: IntArray, tick: int) -> int:
    """Return the moment at a tick, or the one before it."""
    return max(int(np.searchsorted(ticks, tick, side="right")) - 1, 0)


def _polyline(points: list[Point]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def _curve(points: list[Point]) -> str:
    """Return a path through every point that only rounds its corners (Catmull–Rom, as Béziers)."""
    if len(points) < 3:
        return _polyline(points)
    path = [f"M{points[0][0]:.1f} {points[0][1]:.1f}"]
    padded = [points[0], *points, points[-1]]
    for before, a, b, after in zip(padded, padded[1:], padded[2:], padded[3:], strict=False):
        path.append(
            f"C{a[0] + (b[0] - before[0]) / 6:.1f} {a[1] + (b[1] - before[1]) / 6:.1f}"
            f" {b[0] - (after[0] - a[0]) / 6:.1f} {b[1] - (after[1] - a[1]) / 6:.1f} {b[0]:.1f} {b[1]:.1f}"
        )
    return "".join(path)
