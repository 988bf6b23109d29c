"""A piece down the page: its bars with their notes, where takes lean, what was marked, and every stretch hanging."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from giusto.drill.file import MOST_BEATS
from giusto.drill.passage import Bar
from giusto.drill.position import parse
from giusto.missing import Missing
from giusto.practice.rush import Lean
from studio.pieces.models import Mark, Piece, Stretch
from studio.pieces.music import bars_of
from studio.pieces.standing import PieceStanding, StretchStanding
from studio.sheet.words import signed_ms

ROOM, FULL, LEAST = 560.0, 34.0, 17.0  # all bars in this room, none higher nor lower than these
TOP, BELOW = 34.0, 16.0
MOST_LEAN_MS = 40.0  # what half the width of the leans stands for, unless more is needed
THREAD = 0.32  # of a lane: where its thread hangs
LANE = {"chunk": 0, "join": 1, "spot": 2}


@dataclass(frozen=True, slots=True)
class PieceColumns:
    """Where things stand across: bar numbers, sheet, leans about their vertical, lanes of stretches."""

    name: str
    width: float
    sheet_x: float
    sheet_w: float
    lean_x: float
    lean_half: float
    lanes_x: float
    lane_w: float
    lean_head: str


WIDE = PieceColumns("wide", 800, 44, 250, 372, 60, 470, 66, "early | late")
PHONE = PieceColumns("phone", 350, 26, 84, 142, 26, 186, 33, "lean")


@dataclass(frozen=True, slots=True)
class Bars:
    """All bars, each kind of mark as one path: their lines, beats, notes; and those that are numbered."""

    lines: str
    beats: str
    notes: str
    numbers: list[tuple[int, float]]


@dataclass(frozen=True, slots=True)
class LeaningPlace:
    """A place that leans: where it hangs, what it says."""

    x: float
    y: float
    zero: float
    side: str
    label: str
    url: str


@dataclass(frozen=True, slots=True)
class Circle:
    """A place that was marked by hand."""

    x: float
    y: float
    label: str
    url: str


@dataclass(frozen=True, slots=True)
class Hung:
    """A stretch as it hangs: from its first bar down, as far as its tempo has come to the goal."""

    x: float
    top: float
    bottom: float
    end: float
    state: str
    text: str
    label: str
    url: str

    @property
    def span(self) -> float:
        """How high it is."""
        return self.bottom - self.top


@dataclass(frozen=True, slots=True)
class PiecePicture:
    """All of a piece, ready to be drawn; ``dots`` is the path of the places that were looked at and don't lean."""

    columns: PieceColumns
    height: float
    bars: Bars
    places: list[LeaningPlace]
    dots: str
    circles: list[Circle]
    hung: list[Hung]
    heads: list[tuple[float, str]]

    @property
    def bottom(self) -> float:
        """Where the last bar ends."""
        return self.height - BELOW


def draw_piece(
    standing: PieceStanding, found: list[Lean] | Missing, marks: Sequence[Mark], columns: PieceColumns
) -> PiecePicture:
    """Return the picture of a piece."""
    piece = standing.piece
    count = piece.last_bar - piece.first_bar + 1
    row_h = min(max(ROOM / count, LEAST), FULL)
    bars = _bars(piece)
    places, dots = ([], "") if isinstance(found, Missing) else _places(piece, bars, found, columns, row_h)
    lanes = _lanes(standing.stretches)
    heads = _heads(standing.stretches, lanes)
    return PiecePicture(
        columns=columns,
        height=TOP + count * row_h + BELOW,
        bars=_drawn(piece, bars, columns, row_h),
        places=places,
        dots=dots,
        circles=[_circle(piece, bars, mark, columns, row_h) for mark in marks],
        hung=[_hung(one, lanes[one.stretch.pk], standing, columns, row_h) for one in standing.stretches],
        heads=[(columns.lanes_x + (lane + THREAD) * columns.lane_w, word) for lane, word in heads],
    )


def _bars(piece: Piece) -> dict[str, Bar]:
    """Return the bars of the score by number, each as it comes first."""
    return {bar.number: bar for bar in reversed(bars_of(piece.music))}


def _drawn(piece: Piece, bars: dict[str, Bar], columns: PieceColumns, row_h: float) -> Bars:
    lines, beat_marks, note_marks, numbers = [], [], [], []
    even = [beat / piece.grid for beat in range(piece.beats * piece.grid)]
    for index, number in enumerate(range(piece.first_bar, piece.last_bar + 1)):
        bar = bars.get(str(number))
        beats = min(float(bar.beats) if bar else float(piece.beats), MOST_BEATS)
        notes = [float(onset) for onset in bar.onsets] if bar else even if not piece.music else []
        base = round(TOP + (index + 0.52) * row_h, 1)
        across = columns.sheet_w / max(beats, 1.0)
        lines.append(f"M{columns.sheet_x} {base}h{columns.sheet_w}")
        beat_marks += [f"M{columns.sheet_x + beat * across:.1f} {base}v-7" for beat in range(int(beats))]
        note_marks += [f"M{columns.sheet_x + onset * across:.1f} {base}m0 3v7" for onset in notes]
        if row_h >= 15 or index % 5 == 0:
            numbers.append((number, base))
    return Bars("".join(lines), "".join(beat_marks), "".join(note_marks), numbers)


def _across(piece: Piece, bars: dict[str, Bar], bar: int, beats: float) -> float:
    """Return a place in its bar as a share of the bar."""
    found = bars.get(str(bar))
    return min(beats / (float(found.beats) if found else float(piece.beats)), 1.0)


def _places(
    piece: Piece, bars: dict[str, Bar], found: Sequence[Lean], columns: PieceColumns, row_h: float
) -> tuple[list[LeaningPlace], str]:
    """Return the places that lean, and the path of dots of those that don't."""
    most = max([MOST_LEAN_MS, *(abs(one.gain_ms) for one in found)])
    drawn, dots = [], []
    for one in found:
        share = _across(piece, bars, one.bar, float(parse(one.position)))
        x = round(columns.lean_x + one.gain_ms / most * columns.lean_half, 1)
        y = round(TOP + (one.bar - piece.first_bar + share) * row_h, 1)
        if one.leans:
            side = "early" if one.gain_ms < 0 else "late"
            label = f"bar {one.bar}, beat {one.position}: {signed_ms(one.gain_ms)}, in {one.takes} takes"
            drawn.append(LeaningPlace(x, y, columns.lean_x, side, label, _around(piece, one.bar)))
        else:
            dots.append(f"M{x} {y}m-2 0a2 2 0 1 0 4 0a2 2 0 1 0-4 0")
    return drawn, "".join(dots)


def _circle(piece: Piece, bars: dict[str, Bar], mark: Mark, columns: PieceColumns, row_h: float) -> Circle:
    share = _across(piece, bars, mark.bar, mark.beat - 1)
    y = TOP + (mark.bar - piece.first_bar + 0.52) * row_h
    label = f"marked: {mark.get_sort_display()}, bar {mark.bar}, beat {mark.beat}"
    x = round(columns.sheet_x + share * columns.sheet_w, 1)
    return Circle(x, round(y, 1), label, _around(piece, mark.bar))


def _around(piece: Piece, bar: int) -> str:
    """Return the address that offers an exercise of the bars around a place."""
    return f"?around={max(bar - 1, piece.first_bar)}-{min(bar + 1, piece.last_bar)}#spot"


def _lanes(stretches: Sequence[StretchStanding]) -> dict[int, int]:
    """Return the lane of each stretch: chunks, joins, spots where there are any, then larger ones by size."""
    has_spots = any(one.stretch.kind == Stretch.Kind.SPOT for one in stretches)
    sizes = sorted({_size(one) for one in stretches if one.stretch.kind == Stretch.Kind.LARGER})
    grouped: defaultdict[int, int] = defaultdict(int)
    lane = 3 if has_spots else 2
    for size in sizes:
        if not grouped or size > 1.5 * min(grouped):
            grouped[size] = lane
            lane += 1
        else:
            grouped[size] = lane - 1
    found = {}
    for one in stretches:
        kind = one.stretch.kind
        is_larger = kind == Stretch.Kind.LARGER
        found[one.stretch.pk] = grouped[_size(one)] if is_larger else lane if kind == "whole" else LANE[kind]
    return found


def _heads(stretches: Sequence[StretchStanding], lanes: dict[int, int]) -> list[tuple[int, str]]:
    words = {"chunk": "parts", "join": "joins", "spot": "spots", "whole": "all"}
    by_size = sorted(stretches, key=_size)
    return list({lanes[one.stretch.pk]: words.get(one.stretch.kind, f"{_size(one)} bars") for one in by_size}.items())


def _size(one: StretchStanding) -> int:
    return one.stretch.last_bar - one.stretch.first_bar + 1


def _hung(one: StretchStanding, lane: int, standing: PieceStanding, columns: PieceColumns, row_h: float) -> Hung:
    piece, stretch = standing.piece, one.stretch
    top = TOP + (stretch.first_bar - piece.first_bar) * row_h + 4
    bottom = TOP + (stretch.last_bar - piece.first_bar + 1) * row_h - 4
    share = 1.0 if one.core.is_done else min((one.secure_bpm or 0.0) / piece.goal_bpm, 1.0)
    is_next = standing.next is one
    state = "done" if one.core.is_done else "next" if is_next else "begun" if one.takes else "ahead"
    text = (
        f"{one.secure_bpm:g}"
        if one.secure_bpm
        else ("learned" if one.core.is_learned and columns.name == "wide" else "")
    )
    said = f"held at {one.secure_bpm:g}" if one.secure_bpm else "nothing held yet"
    return Hung(
        x=columns.lanes_x + (lane + THREAD) * columns.lane_w,
        top=round(top, 1),
        bottom=round(bottom, 1),
        end=round(top + share * (bottom - top), 1),
        state=state,
        text=text,
        label=f"{stretch.bars_name}: {said}{', next' if is_next else ''}",
        url=stretch.get_absolute_url(),
    )
