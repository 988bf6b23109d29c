"""A piece in words: what comes next, and why."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils import timezone

from studio.ladders.standing import play_address
from studio.ladders.words import asked, why
from studio.pieces.standing import PieceStanding, StretchStanding


@dataclass(frozen=True, slots=True)
class Next:
    """What comes next in a piece: what to do, why, and the address at which it is played with the click, if it is."""

    standing: StretchStanding
    way: str
    what: str
    why: str
    url: str


def next_in(standing: PieceStanding) -> Next | None:
    """Return what comes next; None where all of it is at its goal."""
    one = standing.next
    if standing.asked is None or one is None:
        return None
    name, way, climb = one.stretch.bars_name, standing.asked.way, one.climb
    url = play_address(climb.ladder, climb.step.rung) if climb else ""
    if way == "learn":
        return Next(one, way, f"Learn the notes of {name}", "Notes first, in free tempo, without a click.", "")
    if way == "work":
        return Next(one, way, f"Work on {name} without the click", "No spot check is due before next week.", "")
    if climb is None:
        told = "One take with the click: a spot check." if way == "check" else _first(one, standing.piece.found_bpm)
        return Next(one, way, f"Begin {name} with the click", told, "")
    today = timezone.localdate()
    part = climb.ladder.exercise.part_name
    core, step = climb.ladder.core, climb.step
    what = f"{asked(core, step)}: {name}{f', {part}' if part else ''}"
    told = "A spot check, one a week." if way == "check" else why(core, step, today, is_off=climb.is_off)
    return Next(one, way, what, told, url)


def _first(one: StretchStanding, found_bpm: float | None) -> str:
    kind = one.stretch.kind
    slower = f"than {found_bpm:g}, where it goes now" if found_bpm else "than the goal"
    return {
        "join": "Both of its chunks stand at 80 % of the goal: now the way from one to the other.",
        "larger": "All inside it stands at 80 % of the goal: started again, a little lower.",
        "whole": "All inside it stands at 80 % of the goal: started again, a little lower.",
    }.get(kind, f"A good bit slower {slower}.")
