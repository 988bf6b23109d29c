"""The plumb line: the player's clock hanging beside the sheet, early left, late right."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from giusto.schedule import Schedule
from giusto.silence import held_limit_ms
from studio.sheet.layout import Columns, Rows
from studio.sheet.rows import first_withheld
from studio.sheet.words import became, returned, returned_in_beats, spread

STEPS_MS = (50, 100, 200, 400)
STEPS_BEATS = (1, 2, 4, 8)
AXIS_MS = {50: 15, 100: 30, 200: 60, 400: 120}
FULL_LABEL, LINE_LABEL = 52.0, 17.0  # px between returns: three lines, one line, else on hover
CLASSES = {"held": "steady", "early": "early", "late": "late", "edge": "edge", "unreadable": "unread"}
Point = tuple[float, float]


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
    """A figure under the plumb line: milliseconds above, percent of a beat below."""

    x: float
    upper: str
    lower: str


@dataclass(frozen=True, slots=True)
class Strand:
    """A piece of the thread: with the click, or through one silence."""

    kind: str
    line: str
    band: str
    alone: bool


@dataclass(frozen=True, slots=True)
class Bob:
    """What hangs at a returning click, and what stands beside it."""

    kind: str
    shape: str
    line: str
    pin: Point | None
    x: float
    y: float
    title: str
    label_x: float
    anchor: str
    number: str
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
    unit: str
    factor: int
    strands: list[Strand]
    bobs: list[Bob]
    dots: str


def choose_scale(plan: Schedule, columns: Columns, thread: dict[str, Any] | None) -> Scale:
    """Return the smallest scale that holds the whole thread with its range."""
    beat_ms = plan.beat_s * 1000
    reach = 0.0
    if thread:
        seen = [i for i, note in enumerate(thread["note_ms"]) if note is not None]
        first, last = seen[0], seen[-1]
        clock, half = thread["clock_ms"][first : last + 1], thread["half_ms"][first : last + 1]
        reach = max(abs(c) + h for c, h in zip(clock, half, strict=True))
    for step in STEPS_MS:
        if reach <= step:
            return Scale(step, beat_ms, False, columns.zero_x, columns.half_w)
    beats = next((b for b in STEPS_BEATS if reach <= b * beat_ms), STEPS_BEATS[-1])
    return Scale(beats * beat_ms, beat_ms, True, columns.zero_x, columns.half_w)


def draw_plumb(
    plan: Schedule,
    columns: Columns,
    rows: Rows,
    *,
    spec: dict[str, Any] | None = None,
    thread: dict[str, Any] | None = None,
) -> Plumb:
    """Lay out the plumb line of a plan, with the thread of a take where one is given.

    Parameters
    ----------
    plan : Schedule
    columns : Columns
    rows : Rows
    spec, thread : dict, optional
        A ``reading/1`` and its thread; without them only the true vertical hangs.

    Returns
    -------
    Plumb
    """
    scale = choose_scale(plan, columns, thread)
    limit_ms = held_limit_ms(plan.drill.tempo.bpm)
    cycle_ms = float(plan.seconds(plan.cycle_ticks)) * 1000
    narrow = columns.margin_x < 0
    return Plumb(
        zero_x=columns.zero_x,
        left=columns.zero_x - columns.half_w,
        right=columns.band_right,
        limits=[] if scale.in_beats or limit_ms > scale.half_ms else [scale.x(-limit_ms), scale.x(limit_ms)],
        beat_lines=_beat_lines(scale) if scale.in_beats else [],
        axis=_axis(scale, every_other=narrow),
        unit="beats" if scale.in_beats else "ms",
        factor=round(columns.half_w / scale.half_ms / (columns.sheet_w / cycle_ms)),
        strands=_strands(plan, rows, scale, spec, thread) if spec and thread else [],
        bobs=_bobs(plan, columns, rows, scale, spec, thread) if spec and thread else [],
        dots=_dots(rows, scale, thread) if thread and not rows.is_hairs else "",
    )


def _axis(scale: Scale, *, every_other: bool) -> list[AxisMark]:
    if scale.in_beats:
        whole = round(scale.half_ms / scale.beat_ms)
        steps = [s * max(1, whole // 2) for s in range(-2, 3)] if whole > 1 else [-1, -0.5, 0, 0.5, 1]
        return [AxisMark(scale.x(s * scale.beat_ms), _signed(s), "") for s in steps if abs(s) <= whole]
    step = AXIS_MS[int(scale.half_ms)]
    turns = (-2, 0, 2) if every_other else range(-3, 4)
    return [
        AxisMark(scale.x(k * step), _signed(k * step), _signed(round(k * step / scale.beat_ms * 100)) if k else "")
        for k in turns
    ]


def _beat_lines(scale: Scale) -> list[float]:
    whole = round(scale.half_ms / scale.beat_ms)
    return [scale.x(k * scale.beat_ms) for k in range(-whole, whole + 1) if k]


def _signed(value: float) -> str:
    text = f"{abs(value):g}"
    return f"+{text}" if value > 0 else f"−{text}" if value < 0 else "0"


def _strands(plan: Schedule, rows: Rows, scale: Scale, spec: dict[str, Any], thread: dict[str, Any]) -> list[Strand]:
    ticks = thread["tick"]
    seen = [i for i, note in enumerate(thread["note_ms"]) if note is not None]
    first, last = seen[0], seen[-1]
    cuts: list[tuple[int, int, str, bool]] = []
    at = first
    for silence, read in zip(plan.silences, spec["silences"], strict=True):
        start = first_withheld(plan, silence.start_tick, silence.end_tick)
        a = max(_index(ticks, start), first)
        b = min(_index(ticks, silence.end_tick), last)
        if a >= b:
            continue
        if a > at:
            cuts.append((at, a, "steady", False))
        cuts.append((a, b, CLASSES[read["outcome"]], True))
        at = b
    if at < last:
        cuts.append((at, last, "steady", False))
    return [strand_of(rows, scale, thread, *cut) for cut in cuts]


def strand_of(rows: Rows, scale: Scale, thread: dict[str, Any], a: int, b: int, kind: str, alone: bool) -> Strand:
    """Return the piece of the thread between two moments, with its range."""
    ys = [rows.y(tick) for tick in thread["tick"][a : b + 1]]
    clock, half = thread["clock_ms"][a : b + 1], thread["half_ms"][a : b + 1]
    line = list(zip([scale.x(c) for c in clock], ys, strict=True))
    right = list(zip([scale.x(c + h) for c, h in zip(clock, half, strict=True)], ys, strict=True))
    left = list(zip([scale.x(c - h) for c, h in zip(clock, half, strict=True)], ys, strict=True))
    return Strand(kind, _curve(line), f"{_polyline(right)}L{_polyline(left[::-1])[1:]}Z", alone)


def _bobs(
    plan: Schedule,
    columns: Columns,
    rows: Rows,
    scale: Scale,
    spec: dict[str, Any],
    thread: dict[str, Any],
) -> list[Bob]:
    ends = [rows.y(s.end_tick) for s in plan.silences]
    apart = min((b - a for a, b in pairwise(ends)), default=1000.0)
    return [
        bob_of(plan, columns, rows, scale, thread, number, silence, apart)
        for number, silence in enumerate(spec["silences"], start=1)
    ]


def bob_of(
    plan: Schedule,
    columns: Columns,
    rows: Rows,
    scale: Scale,
    thread: dict[str, Any],
    number: int,
    silence: dict[str, Any],
    apart: float,
) -> Bob:
    """Return what hangs at the return of a silence, counted from 1."""
    span = plan.silences[number - 1]
    kind, bpm = CLASSES[silence["outcome"]], plan.drill.tempo.bpm
    y = rows.y(span.end_tick)
    ms = silence["return_ms"]
    if ms is None:
        seen = thread["clock_ms"][_index(thread["tick"], span.end_tick)]
        x = scale.x(seen if silence["notes"] else 0.0)
    else:
        x = scale.x(ms)
    pin_tick = first_withheld(plan, span.start_tick, span.end_tick)
    pin_ms = thread["clock_ms"][_index(thread["tick"], pin_tick)]
    text = returned_in_beats(silence, scale.beat_ms) if scale.in_beats else returned(silence)
    below = [] if ms is None else [spread(silence), became(silence, bpm)]
    asked = plan.asked_in(plan.silences[number - 1])
    if ms is None:
        below = [f"{silence['notes']} of {asked} notes"]
    inside = columns.margin_x < 0
    line_x = scale.zero_x if inside else min(x, scale.zero_x)
    return Bob(
        kind=kind,
        shape=_shape(kind, x, y),
        line=f"M{line_x:.1f} {y:.1f}H{x if inside else columns.margin_x - 8:.1f}",
        pin=None if rows.is_hairs else (scale.x(pin_ms), rows.y(pin_tick)),
        x=x,
        y=y,
        title=f"Silence {number}: {', '.join([returned(silence), *below])}",
        label_x=columns.margin_x if not inside else scale.zero_x + (8 if x < scale.zero_x else -8),
        anchor="end" if inside and x >= scale.zero_x else "start",
        number=text if apart >= LINE_LABEL else "",
        below=below if apart >= FULL_LABEL and not inside else [],
    )


def _shape(kind: str, x: float, y: float) -> str:
    if kind == "late":
        return f"M{x + 7:.1f} {y:.1f}L{x - 5:.1f} {y - 6.5:.1f}V{y + 6.5:.1f}Z"
    if kind == "early":
        return f"M{x - 7:.1f} {y:.1f}L{x + 5:.1f} {y - 6.5:.1f}V{y + 6.5:.1f}Z"
    if kind == "steady":
        return f"M{x:.1f} {y + 7:.1f}L{x - 6.5:.1f} {y - 5:.1f}H{x + 6.5:.1f}Z"
    return ""


def _dots(rows: Rows, scale: Scale, thread: dict[str, Any]) -> str:
    return "".join(
        f"M{scale.x(ms):.1f} {rows.y(tick):.1f}h0"
        for ms, tick in zip(thread["note_ms"], thread["tick"], strict=True)
        if ms is not None and abs(ms) <= scale.half_ms
    )


def _index(ticks: list[int], tick: int) -> int:
    """Return the moment at a tick, or the one before it."""
    return max(bisect_right(ticks, tick) - 1, 0)


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
