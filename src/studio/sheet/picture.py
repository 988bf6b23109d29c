"""Whole pictures: a plan, a take, the last silence, a thumbnail for the shelf."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from giusto import position
from giusto.drill import Drill
from giusto.schedule import Schedule, schedule
from studio.sheet.layout import Columns, Rows
from studio.sheet.plumb import Bob, Plumb, Scale, Strand, bob_of, choose_scale, draw_plumb, strand_of
from studio.sheet.rows import Sheet, draw_sheet, first_withheld

THUMBNAIL = Columns("thumbnail", 52, -1, 0, 4, 44, 52, 0, -1)
SMALL = Columns("small", 190, -1, 36, 46, 132, 186, 0, -1)
LAST = Columns("last", 224, -1, 0, 0, 0, 112, 104, -1)
LAST_HEIGHT = 214.0
ALONE_ROW, ALONE_LEAST, ALONE_MOST = 180.0, 320.0, 640.0
ALONE = Columns("alone", 440, -1, 0, 0, 0, 220, 200, -1)
STANDING_HEIGHT, STANDING_ROW = 640.0, 80.0
NARROW, NARROW_HEIGHT = 400, 440.0  # a phone, held upright


@dataclass(frozen=True, slots=True)
class Picture:
    """A sheet with its plumb line, ready to be drawn."""

    columns: Columns
    rows: Rows
    height: float
    sheet: Sheet
    plumb: Plumb | None


@dataclass(frozen=True, slots=True)
class Hanging:
    """One silence by itself: its strand, bob and true vertical."""

    strand: Strand
    bob: Bob
    zero_x: float
    limits: list[float]
    width: float
    height: float


def draw_plan(plan: Schedule, columns: Columns) -> Picture:
    """Return the picture of a drill that nobody has played yet."""
    rows = Rows.of(plan)
    return Picture(columns, rows, rows.bottom + 52, draw_sheet(plan, columns, rows), draw_plumb(plan, columns, rows))


def draw_take(plan: Schedule, columns: Columns, *, spec: dict[str, Any], thread: dict[str, Any] | None) -> Picture:
    """Return the picture of a take."""
    rows = Rows.of(plan)
    sheet = draw_sheet(plan, columns, rows, spec)
    plumb = draw_plumb(plan, columns, rows, spec=spec, thread=thread)
    return Picture(columns, rows, rows.bottom + 52, sheet, plumb)


def draw_standing(plan: Schedule, columns: Columns, *, spec: dict[str, Any], thread: dict[str, Any] | None) -> Picture:
    """Return the plumb line by itself, large, for a player who stands two metres away."""
    rows = Rows.of(plan, top=52, room=STANDING_HEIGHT if columns.width > NARROW else NARROW_HEIGHT, full=STANDING_ROW)
    sheet = draw_sheet(plan, columns, rows)
    plumb = draw_plumb(plan, columns, rows, spec=spec, thread=thread)
    return Picture(columns, rows, rows.bottom + 34, sheet, plumb)


def draw_alone(plan: Schedule, number: int, *, spec: dict[str, Any], thread: dict[str, Any]) -> Hanging | None:
    """Return one silence by itself for its own page, at full height; None where none of it was caught."""
    span = plan.silences[number - 1]
    caught = [
        note
        for tick, note in zip(thread["tick"], thread["note_ms"], strict=True)
        if note is not None and span.start_tick <= tick <= span.end_tick
    ]
    if not caught:
        return None
    cycles = (span.end_tick - span.start_tick) / plan.cycle_ticks
    height = min(max(ALONE_ROW * cycles, ALONE_LEAST), ALONE_MOST)
    return draw_silence(plan, number, spec=spec, thread=thread, columns=ALONE, height=height)


def draw_small(plan: Schedule, spec: dict[str, Any] | None = None) -> Picture:
    """Return the narrow sheet that stands beside the state while playing."""
    rows = Rows.of(plan, top=8, room=510)
    return Picture(SMALL, rows, rows.bottom + 8, draw_sheet(plan, SMALL, rows, spec), None)


def thumbnail(plan: Schedule) -> Picture:
    """Return the first four cycles of a drill, for the shelf."""
    short = plan.drill.model_copy(update={"cycles": min(4, plan.drill.cycles), "close": 1})
    first = schedule(short)
    rows = Rows(first, 15.0, 2.0)
    return Picture(THUMBNAIL, rows, 64, draw_sheet(first, THUMBNAIL, rows), None)


def draw_silence(
    plan: Schedule,
    number: int,
    *,
    spec: dict[str, Any],
    thread: dict[str, Any],
    columns: Columns = LAST,
    height: float = LAST_HEIGHT,
) -> Hanging:
    """Return one silence by itself, as it is shown after its return.

    Parameters
    ----------
    number : int
        From 1.
    """
    span = plan.silences[number - 1]
    silence = spec["silences"][number - 1]
    start = first_withheld(plan, span.start_tick, span.end_tick)
    inside = [i for i, tick in enumerate(thread["tick"]) if start <= tick <= span.end_tick]
    a, b = inside[0], inside[-1]
    piece = {name: values[a : b + 1] for name, values in thread.items()}
    piece["note_ms"] = [0.0] * len(inside)  # the scale looks at the whole piece, caught or not
    scale: Scale = choose_scale(plan, columns, piece)
    per_cycle = (height - 36) / ((span.end_tick - start) / plan.cycle_ticks)
    top = 14 - (start - plan.body_tick) / plan.cycle_ticks * per_cycle
    rows = Rows(plan, per_cycle, top)
    bob = bob_of(plan, columns, rows, scale, thread, number, silence, 1000.0)
    limit = plan.beat_s * 1000 * 0.05
    limits = [] if scale.in_beats or limit > scale.half_ms else [scale.x(-limit), scale.x(limit)]
    strand = strand_of(rows, scale, thread, a, b, bob.kind, True)
    return Hanging(strand, bob, columns.zero_x, limits, columns.width, height)


def big_row(drill: Drill) -> dict[str, Any]:
    """Return the enlarged row of the play page: posts and marks in a box of 640 by 96."""
    beat_w = 640 / drill.cycle.beats
    on = [position.parse(text) for text in drill.clicks.on]
    grid = drill.part.grid
    posts = [{"x": round(float(at) * beat_w, 1), "w": 26 if at == 0 else 20, "h": 92 if at == 0 else 64} for at in on]
    marks = [round((beat + part / grid) * beat_w, 1) for beat in range(drill.cycle.beats) for part in range(1, grid)]
    return {"posts": posts, "marks": marks if beat_w / grid >= 14 else []}
