"""The sheet: posts above each line, the player's notes below it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from itertools import groupby
from typing import TypeAlias

import numpy as np

from giusto.arrays import FloatArray, IntArray
from giusto.drill import position
from giusto.drill.file import swung
from giusto.reading import Reading
from giusto.schedule import Schedule
from giusto.schedule.layout import Grid, accent_places
from studio.sheet.layout import LINE_AT, Columns, Rows

POST_ACCENT, POST_BEAT, POST_SUB = (6.7, 13.2), (5.3, 9.0), (3.4, 5.6)
NUMBER_DROP = -1.0  # on the machine's side of the line, where no early note stands
WORD_DROP = 14.0  # under the edge of a stretch, where no sheet stands
MOST_HAIRS = 6_500  # of a picture; of more notes every second, third, … is drawn
LEAST_HAIRS = 300.0  # px of a cycle below which the notes of a very long take are left out
LEAST_BEAT_LABEL, LEAST_MARK, LEAST_WORD = 20.0, 5.0, 18.0


@dataclass(frozen=True, slots=True)
class Label:
    """A word or number at a place."""

    x: float
    y: float
    text: str
    strong: bool = False


@dataclass(frozen=True, slots=True)
class Sheet:
    """The sheet as plain values; each path draws all marks of one kind."""

    beats: list[Label]
    beat_lines: str
    first_line: str
    row_lines: str
    marks: str
    numbers: list[Label]
    words: list[Label]
    bands: str
    posts: str
    hollow: str
    ticks: str
    tick_width: float
    extra: str
    asked: str
    missed: str


def draw_sheet(plan: Schedule, columns: Columns, rows: Rows, reading: Reading | None = None) -> Sheet:
    """Lay out the sheet of a plan, with the notes of a reading where one is given.

    Parameters
    ----------
    plan : Schedule
    columns : Columns
    rows : Rows
    reading : Reading, optional

    Returns
    -------
    Sheet
    """
    if not columns.has_sheet:
        return _without_sheet(plan, columns, rows)
    left, right = columns.sheet_x, columns.sheet_x + columns.sheet_w
    beat_w = columns.sheet_w / plan.drill.cycle.beats
    cycles = range(1, rows.count + 1)
    verticals = [left + beat_w * beat for beat in range(plan.drill.cycle.beats + 1)]
    posts, hollow = _posts(plan, columns, rows)
    ink = _ink(plan, columns, rows, reading) if reading else Ink(asked=_asked(plan, columns, rows))
    return Sheet(
        beats=_beat_labels(plan, columns, rows, beat_w),
        beat_lines="".join(f"M{x:.1f} {rows.top:.1f}V{rows.bottom:.1f}" for x in verticals[1:]),
        first_line=f"M{left:.1f} {rows.top:.1f}V{rows.bottom:.1f}",
        row_lines="" if rows.is_hairs else "".join(f"M{left:.1f} {rows.line_y(c):.1f}H{right:.1f}" for c in cycles),
        marks=_marks(plan, columns, rows, beat_w),
        numbers=_numbers(plan, columns, rows),
        words=_words(plan, columns, rows),
        bands=_bands(plan, columns, rows),
        posts=posts,
        hollow=hollow,
        ticks=ink.ticks,
        tick_width=ink.width,
        extra=ink.extra,
        asked=ink.asked,
        missed=ink.missed,
    )


def _without_sheet(plan: Schedule, columns: Columns, rows: Rows) -> Sheet:
    """Return only where the click sounds and where it doesn't, with the first cycle of each stretch."""
    words = _words(plan, columns, rows)
    lines = _starts(_runs(plan)) if words else [1]
    return Sheet(
        beats=[],
        beat_lines="",
        first_line="",
        row_lines="".join(f"M0 {rows.y_of(cycle):.1f}H{columns.band_right:g}" for cycle in lines),
        marks="",
        numbers=[Label(columns.number_x, rows.y_of(cycle) + WORD_DROP, str(cycle)) for cycle in lines] if words else [],
        words=words,
        bands=_bands(plan, columns, rows),
        posts="",
        hollow="",
        ticks="",
        tick_width=1.0,
        extra="",
        asked="",
        missed="",
    )


def first_withheld(plan: Schedule, start_tick: int, end_tick: int) -> int:
    """Return the first click withheld in a silence, or its start where none is."""
    withheld = plan.withheld.tick
    index = int(withheld.searchsorted(start_tick, side="right"))
    return int(withheld[index]) if index < withheld.size and withheld[index] < end_tick else start_tick


def _beat_labels(plan: Schedule, columns: Columns, rows: Rows, beat_w: float) -> list[Label]:
    step = 1 if beat_w >= LEAST_BEAT_LABEL else 2 if 2 * beat_w >= LEAST_BEAT_LABEL else 4
    sounding = {int(position.parse(text)) for text in plan.drill.clicks.on if "+" not in text}
    return [
        Label(columns.sheet_x + beat * beat_w, rows.top - 14, str(beat + 1), beat in sounding)
        for beat in range(0, plan.drill.cycle.beats, step)
    ]


def _marks(plan: Schedule, columns: Columns, rows: Rows, beat_w: float) -> str:
    grid = plan.drill.part.grid
    if rows.height < 14 or beat_w / grid < LEAST_MARK:
        return ""
    parts = [float(swung(plan.drill, Fraction(part, grid))) for part in range(1, grid)]
    slots = [beat + part for beat in range(plan.drill.cycle.beats) for part in parts]
    length = 4 * rows.post_scale
    return "".join(
        f"M{columns.sheet_x + slot * beat_w:.1f} {rows.line_y(cycle):.1f}v-{length:.1f}"
        for cycle in range(1, rows.count + 1)
        for slot in slots
    )


def _numbers(plan: Schedule, columns: Columns, rows: Rows) -> list[Label]:
    step = rows.number_step
    shown = range(1 if step == 1 else step, plan.drill.cycles + 1, step)
    return [Label(columns.number_x, rows.line_y(cycle) + NUMBER_DROP, str(cycle)) for cycle in shown]


def _words(plan: Schedule, columns: Columns, rows: Rows) -> list[Label]:
    runs = _runs(plan)
    if columns.word_x < 0 or min(length for _, length in runs) * rows.height < LEAST_WORD:
        return []

    def y(cycle: int) -> float:
        return rows.line_y(cycle) + NUMBER_DROP if columns.has_sheet else rows.y_of(cycle) + WORD_DROP

    return [
        Label(columns.word_x, y(start), word)
        for word, start in zip((word for word, _ in runs), _starts(runs), strict=True)
    ]


def _runs(plan: Schedule) -> list[tuple[str, int]]:
    """Return the stretches of cycles with the click, alone, and to close, each with its length."""
    return [(word, len(list(run))) for word, run in groupby(cycle_words(plan))]


def _starts(runs: list[tuple[str, int]]) -> list[int]:
    """Return the first cycle of each stretch."""
    starts: list[int] = np.cumsum([1, *(length for _, length in runs[:-1])]).tolist()
    return starts


def cycle_words(plan: Schedule) -> list[str]:
    """Return *click*, *alone* or *close* for each row: alone where silence fills most of it and no click sounds."""
    spans = [(s.start_tick, s.end_tick) for s in (*plan.silences, *plan.unreturned)]
    starts = plan.body_tick + plan.cycle_ticks * np.arange(plan.drill.cycles)
    covered = np.zeros(plan.drill.cycles)
    for start, end in spans:
        covered += np.clip(np.minimum(end, starts + plan.cycle_ticks) - np.maximum(start, starts), 0, None)
    heard = np.isin(np.arange(1, plan.drill.cycles + 1), plan.clicks.cycle)
    if not plan.drill.clicks.on:
        return ["alone"] * plan.drill.cycles + ["close"] * plan.drill.close
    body = np.where((covered * 2 > plan.cycle_ticks) & ~heard, "alone", "click").tolist()
    return [*body, *["close"] * plan.drill.close]


def _bands(plan: Schedule, columns: Columns, rows: Rows) -> str:
    bands: list[tuple[float, float]] = []
    for silence in (*plan.silences, *plan.unreturned):
        start = first_withheld(plan, silence.start_tick, silence.end_tick)
        top, bottom = max(rows.y(start), rows.top), rows.y(silence.end_tick)
        if bands and abs(bands[-1][1] - top) < 0.5:  # one piece, no seam
            top = bands.pop()[0]
        bands.append((top, bottom))
    width = columns.band_right
    return "".join(f"M0 {top:.1f}h{width:g}V{bottom:.1f}h-{width:g}z" for top, bottom in bands)


def _posts(plan: Schedule, columns: Columns, rows: Rows) -> tuple[str, str]:
    if rows.is_hairs:
        return "", ""
    sizes = _post_sizes(plan, rows.post_scale)
    pixels = columns.sheet_w / plan.cycle_ticks

    def drawn(places: Grid, *, solid: bool) -> str:
        sounding = plan.sounding_offset(places.offset)
        return "".join(
            _post(columns.sheet_x + at * pixels, rows.line_y(cycle), *sizes(offset), solid)
            for cycle, offset, at in zip(*(a.tolist() for a in (places.cycle, places.offset, sounding)), strict=True)
        )

    hollow = drawn(plan.withheld, solid=False) if rows.shows_hollow else ""
    return drawn(plan.clicks.where(plan.clicks.cycle >= 1), solid=True), hollow


PostSize: TypeAlias = Callable[[int], tuple[float, float]]


def _post_sizes(plan: Schedule, scale: float) -> PostSize:
    accented = {place * plan.ticks_per_beat for place in accent_places(plan.drill)}

    def size(offset: int) -> tuple[float, float]:
        on_beat = offset % plan.ticks_per_beat == 0
        width, height = POST_ACCENT if offset in accented else POST_BEAT if on_beat else POST_SUB
        return width * max(scale, 0.55), height * scale

    return size


def _post(x: float, y: float, width: float, height: float, solid: bool) -> str:
    inset = 0.0 if solid else 0.6
    w, h = width - 2 * inset, height - 2 * inset
    return f"M{x - w / 2:.1f} {y - inset:.1f}h{w:.1f}v-{h:.1f}h-{w:.1f}z"


@dataclass(frozen=True, slots=True)
class Ink:
    """The player's notes as paths: caught, added, asked for and missed, and how wide a tick is drawn."""

    ticks: str = ""
    extra: str = ""
    asked: str = ""
    missed: str = ""
    width: float = 1.5


def _ink(plan: Schedule, columns: Columns, rows: Rows, reading: Reading) -> Ink:
    soonest_s = float(plan.seconds(plan.body_tick - plan.cycle_ticks // 8))  # in the count-in nothing is asked
    caught_s = np.array([match.played_s for match in reading.matches])
    cycle = np.array([match.cycle for match in reading.matches], dtype=np.int64)
    added_s = np.array([extra.played_s for extra in reading.extra if extra.played_s > soonest_s])
    beat_w = columns.sheet_w / plan.drill.cycle.beats
    drop, wide = _drop(rows), columns.sheet_w >= LEAST_HAIRS
    missed = [
        (
            columns.sheet_x + float(swung(plan.drill, position.parse(m.position))) * beat_w,
            rows.line_y(m.cycle) + drop + 3,
        )
        for m in reading.missed
    ]
    apart = beat_w / plan.drill.part.grid
    return Ink(
        ticks=_ticks(rows, _spots(plan, columns, rows, caught_s, cycle), wide=wide),
        extra=_ticks(rows, _spots(plan, columns, rows, added_s), lower=1.0, wide=wide),
        missed="" if rows.height < 10 else "".join(_cross(x, y, min(2.4, rows.height / 8)) for x, y in missed),
        width=1.0 if apart < 5 or rows.height < 14 else 1.5,
    )


def _spots(
    plan: Schedule, columns: Columns, rows: Rows, played_s: FloatArray, cycle: IntArray | None = None
) -> list[tuple[float, float]]:
    """Return where notes stand: in the row of their cycle, or, where none is given or it is far off, of their time."""
    turns = (plan.tempos.ticks(played_s) - plan.body_tick) / plan.cycle_ticks
    by_time = np.floor(turns).astype(np.int64) + 1
    row = by_time if cycle is None else cycle
    # A note of the cycle before or after may lean over the edge by half a beat; further off, it stands elsewhere.
    near = np.abs(turns - (row - 1) - 0.5) <= 0.5 + 0.5 / plan.drill.cycle.beats
    row = np.clip(np.where(near, row, by_time), 1, rows.count)
    x = columns.sheet_x + (turns - (row - 1)) * columns.sheet_w
    return [(at, rows.line_y(number)) for at, number in zip(x.tolist(), row.tolist(), strict=True)]


def _ticks(rows: Rows, spots: list[tuple[float, float]], *, lower: float = 0.0, wide: bool = True) -> str:
    if rows.is_hairs:
        return _hairs(spots) if wide else ""  # on a narrow page they would be one grey
    length = max(min(9.0, rows.height * (1 - LINE_AT) - 4), 1.5)
    drop = _drop(rows) + lower
    return "".join(f"M{x:.1f} {y + drop:.1f}v{length:.1f}" for x, y in spots)


def _hairs(spots: list[tuple[float, float]]) -> str:
    """Return ticks of one pixel, each told from where the last one ended: of a long take there are thousands."""
    path, at_x, at_y = [], 0, 0
    some = spots[:: 1 + len(spots) // MOST_HAIRS]
    for x, y in ((round(x), round(y)) for x, y in some):
        path.append(f"m{x - at_x}{'' if y < at_y else ' '}{y - at_y}v1")
        at_x, at_y = x, y + 1
    return "".join(path)


def _drop(rows: Rows) -> float:
    """Return how far below its line a note begins."""
    return 0.0 if rows.is_hairs else min(3.0, rows.height / 10)


def _asked(plan: Schedule, columns: Columns, rows: Rows) -> str:
    """Return thin ticks for the notes that a plan asks for, where these are not simply all."""
    if plan.drill.part.play == "grid" or rows.height < 10:
        return ""
    pixels = columns.sheet_w / plan.cycle_ticks
    notes = zip(plan.notes.cycle.tolist(), plan.sounding_offset(plan.notes.offset).tolist(), strict=True)
    return _ticks(rows, [(columns.sheet_x + at * pixels, rows.line_y(cycle)) for cycle, at in notes])


def _cross(x: float, y: float, r: float) -> str:
    return f"M{x - r:.1f} {y - r:.1f}l{2 * r:.1f} {2 * r:.1f}m0 -{2 * r:.1f}l-{2 * r:.1f} {2 * r:.1f}"


def played_ticks(plan: Schedule, columns: Columns, rows: Rows, played_s: FloatArray) -> str:
    """Return notes as they were played so far, each where its own time puts it."""
    body = played_s[played_s > float(plan.seconds(plan.body_tick - plan.cycle_ticks // 8))]
    return _ticks(rows, _spots(plan, columns, rows, body))
