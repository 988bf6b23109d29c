"""Where the takes of an exercise lean within its cycle, or within the turns of its part."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import Q

from giusto.missing import Missing
from giusto.practice.rush import Lean, PassageTake, rush_map, turn_of
from studio.ladders.models import Ladder
from studio.sheet.words import signed_ms
from studio.takes.rushing import newest_read, notes_asked

TOP, ROW, ZERO, HALF, WIDTH = 30.0, 22.0, 190.0, 110.0, 470.0
MOST_MS = 30.0  # what half the width stands for, unless more is needed


@dataclass(frozen=True, slots=True)
class PlaceRow:
    """A place of the cycle: where it hangs, how far it leans, what that is in words."""

    y: float
    name: str
    low: float
    width: float
    x: float
    side: str
    text: str


@dataclass(frozen=True, slots=True)
class PlacesPicture:
    """The places down the page, about their vertical."""

    height: float
    rows: list[PlaceRow]

    width = WIDTH
    zero = ZERO


def leans_of(ladder: Ladder) -> list[Lean] | Missing:
    """Return the rush map of a ladder's exercise: of its newest takes with the notes of the rung played last."""
    takes = newest_read(ladder.player, Q(exercise=ladder.exercise_id))
    keys = [(take.slots, take.beats) for take in takes]
    alike = [take for take, key in zip(takes, keys, strict=True) if key == keys[0]]
    bars = turn_of(ladder.core.drills[0])
    return rush_map([PassageTake(notes, first=1, bars=bars) for take in alike if (notes := notes_asked(take))])


def draw_places(found: list[Lean]) -> PlacesPicture:
    """Return the picture of a rush map without a score."""
    most = max([MOST_MS, *(abs(end) for one in found for end in one.ci95_ms)])
    in_turns = len({one.bar for one in found}) > 1
    rows = []
    for index, one in enumerate(found):
        low, high = (ZERO + end / most * HALF for end in one.ci95_ms)
        side = ("early" if one.gain_ms < 0 else "late") if one.leans else ""
        name = f"{one.bar}: {one.position}" if in_turns else one.position
        x = round(ZERO + one.gain_ms / most * HALF, 1)
        text = signed_ms(one.gain_ms) if side else ""
        rows.append(PlaceRow(TOP + ROW * (index + 0.5), name, round(low, 1), round(high - low, 1), x, side, text))
    return PlacesPicture(TOP + ROW * len(found) + 12, rows)
