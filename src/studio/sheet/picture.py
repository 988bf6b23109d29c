"""Whole pictures: a plan, a take, the last silence, a thumbnail for the shelf."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache

import numpy as np

from giusto.arrays import FloatArray
from giusto.drill import Drill, position
from giusto.drill.file import swung
from giusto.figures.silence import SilenceReading, held_limit_ms
from giusto.reading import Reading, Thread
from giusto.schedule import Schedule, schedule
from giusto.schedule.layout import accent_places
from studio.sheet.layout import LINE_HEIGHT, Columns, Rows
from studio.sheet.plumb import AxisMark, Bob, Frame, Plumb, Strand, axis_of, bob_of, choose_scale, draw_plumb, strand_of
from studio.sheet.rows import Sheet, draw_sheet, first_withheld, played_ticks

THUMBNAIL = Columns("thumbnail", 52, -1, 0, 4, 44, 52, 0, -1)
PLAN = Columns("plan", 300, 4, -20, 62, 230, 299, 0, -1)
PLAN_HEIGHT, PLAN_ROW = 510.0, 29.0
SMALL = Columns("small", 190, -1, 36, 46, 132, 186, 0, -1)
LAST = Columns("last", 224, -1, 0, 0, 0, 112, 104, -1)
LAST_HEIGHT = 214.0
ALONE_ROW, ALONE_LEAST, ALONE_MOST = 180.0, 320.0, 640.0
ALONE = Columns("alone", 440, -1, 0, 0, 0, 220, 200, -1)
UNDER = 32  # px: the figures of the axis
STANDING_HEIGHT, STANDING_ROW = 640.0, 80.0
BIG_WIDTH, BIG_BASE, LEAST_MARK_APART = 640.0, 96.0, 14.0
ACCENT_POST, CLICK_POST = (26.0, 92.0), (20.0, 64.0)
NARROW, NARROW_HEIGHT = 400, 345.0  # a phone, held upright: under a verdict of three lines


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
    """One silence by itself: its strand, bob and true vertical, and the scale under it."""

    strand: Strand
    bob: Bob
    zero_x: float
    limits: list[float]
    width: float
    height: float
    axis: list[AxisMark]
    unit: str


def draw_plan(plan: Schedule, columns: Columns = PLAN) -> Picture:
    """Return the sheet of a drill that nobody has played yet."""
    rows = Rows.of(plan, top=36, room=PLAN_HEIGHT, full=PLAN_ROW)
    return Picture(columns, rows, rows.bottom + 6, draw_sheet(plan, columns, rows), None)


def draw_take(plan: Schedule, columns: Columns, *, reading: Reading, thread: Thread | None) -> Picture:
    """Return the picture of a take."""
    rows = Rows.of(plan) if columns.has_sheet else Rows.of(plan, top=36, room=LINE_HEIGHT)
    sheet = draw_sheet(plan, columns, rows, reading)
    plumb = draw_plumb(plan, columns, rows, reading=reading, thread=thread)
    return Picture(columns, rows, rows.bottom + UNDER, sheet, plumb)


def draw_standing(plan: Schedule, columns: Columns, *, reading: Reading, thread: Thread | None) -> Picture:
    """Return the plumb line by itself, large, for a player who stands two metres away."""
    rows = Rows.of(plan, top=52, room=STANDING_HEIGHT if columns.width > NARROW else NARROW_HEIGHT, full=STANDING_ROW)
    sheet = draw_sheet(plan, columns, rows)
    plumb = draw_plumb(plan, columns, rows, reading=reading, thread=thread)
    return Picture(columns, rows, rows.bottom + 34, sheet, plumb)


def draw_alone(plan: Schedule, number: int, *, reading: Reading, thread: Thread) -> Hanging | None:
    """Return one silence by itself for its own page, at full height; None where none of it was caught."""
    span = plan.silences[number - 1]
    inside = (thread.tick >= span.start_tick) & (thread.tick <= span.end_tick)
    if not np.any(np.isfinite(thread.note_ms) & inside):
        return None
    cycles = (span.end_tick - span.start_tick) / plan.cycle_ticks
    height = min(max(ALONE_ROW * cycles, ALONE_LEAST), ALONE_MOST)
    return draw_silence(plan, number, silence=reading.silences[number - 1], thread=thread, columns=ALONE, height=height)


def draw_small(plan: Schedule, played_s: FloatArray | None = None) -> Picture:
    """Return the narrow sheet that stands beside the state while playing, with what was played so far."""
    rows = Rows.of(plan, top=8, room=510)
    sheet = draw_sheet(plan, SMALL, rows)
    if played_s is not None:
        sheet = replace(sheet, ticks=played_ticks(plan, SMALL, rows, played_s), asked="")
    return Picture(SMALL, rows, rows.bottom + 8, sheet, None)


@lru_cache(maxsize=256)
def thumbnail(drill: Drill) -> Picture:
    """Return the first four cycles of a drill, for the shelf."""
    first = schedule(drill.model_copy(update={"cycles": min(4, drill.cycles), "close": 1}))
    rows = Rows(first, 15.0, 2.0)
    return Picture(THUMBNAIL, rows, 64, draw_sheet(first, THUMBNAIL, rows), None)


def draw_silence(
    plan: Schedule,
    number: int,
    *,
    silence: SilenceReading,
    thread: Thread,
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
    start = first_withheld(plan, span.start_tick, span.end_tick)
    inside = np.flatnonzero((thread.tick >= start) & (thread.tick <= span.end_tick))
    a, b = int(inside[0]), int(inside[-1])
    cut = slice(a, b + 1)  # the scale looks at the whole piece, caught or not
    piece = Thread(thread.tick[cut], thread.clock_ms[cut], thread.half_ms[cut], np.zeros(inside.size))
    scale = choose_scale(plan, columns, piece)
    per_cycle = (height - 36) / ((span.end_tick - start) / plan.cycle_ticks)
    top = 14 - (start - plan.body_tick) / plan.cycle_ticks * per_cycle
    rows = Rows(plan, per_cycle, top)
    bob = bob_of(Frame(plan, columns, rows, scale, thread), number, silence, 1000.0)
    limit = held_limit_ms(plan.bpm_between(span.start_tick, span.end_tick))
    limits = [] if scale.in_beats or limit > scale.half_ms else [scale.x(-limit), scale.x(limit)]
    strand = strand_of(rows, scale, thread, a, b, bob.kind, True)
    axis = axis_of(scale, every_other=True)
    unit = "beats" if scale.in_beats else "ms"
    return Hanging(strand, bob, columns.zero_x, limits, columns.width, height, axis, unit)


@dataclass(frozen=True, slots=True)
class ClickPost:
    """A click of the enlarged row."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class BigRow:
    """The enlarged row of the play page, in a box of 640 by 96: where the click sounds, where a note may be."""

    posts: list[ClickPost]
    marks: list[float]


def big_row(drill: Drill) -> BigRow:
    """Return the enlarged row of the play page."""
    beat_w = BIG_WIDTH / drill.cycle.beats
    accented = accent_places(drill)
    places = [position.parse(text) for text in drill.clicks.on]
    posts = [_post(float(swung(drill, at)) * beat_w, at in accented) for at in places]
    grid = drill.part.grid
    parts = [float(swung(drill, Fraction(part, grid))) for part in range(1, grid)]
    marks = [round((beat + part) * beat_w, 1) for beat in range(drill.cycle.beats) for part in parts]
    return BigRow(posts, marks if beat_w / grid >= LEAST_MARK_APART else [])


def _post(x: float, is_accent: bool) -> ClickPost:
    width, height = ACCENT_POST if is_accent else CLICK_POST
    return ClickPost(round(x - width / 2, 1), BIG_BASE - height, width, height)
