"""A part built up note by note: first what falls on the click, then what halves the largest gaps."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from giusto.drill import Drill, position
from giusto.drill.file import Segment, validate
from giusto.errors import GiustoError
from giusto.schedule import schedule


def build_up(drill: Drill) -> list[Drill]:
    """Return the stages of a part, from the notes on the click to all of it.

    Parameters
    ----------
    drill : Drill
        Whose part is one figure of a cycle: neither free nor in turns.

    Returns
    -------
    list of Drill
        The last is the drill itself.

    Raises
    ------
    GiustoError
        ``part``, where the part is free or in turns.

    Notes
    -----
    Common practice. First only the asked notes that fall on a click that sounds somewhere in the body (where
    none does, the first asked note); then, stage by stage, in every gap that is the largest now the asked note
    nearest to its middle, of two as near the earlier. The cycle is a ring: the gap over its end is one of them.
    A gap without a note left in it is none.
    """
    asked = _asked(drill)
    plan = schedule(drill)
    body = (plan.clicks.cycle >= 1) & (plan.clicks.cycle <= drill.cycles)
    clicks = {Fraction(int(tick), plan.ticks_per_beat) for tick in np.unique(plan.clicks.offset[body]).tolist()}
    chosen = [at for at in asked if at in clicks] or asked[:1]
    stages = []
    while len(chosen) < len(asked):
        stages.append(_with(drill, chosen))
        chosen = sorted([*chosen, *_next(chosen, asked, Fraction(drill.cycle.beats))])
    return [*stages, drill]


def _asked(drill: Drill) -> list[Fraction]:
    """Return the places of the part, in beats from the start of the cycle, ascending."""
    play, grid = drill.part.play, drill.part.grid
    if play == "grid":
        return [Fraction(slot, grid) for slot in range(drill.cycle.beats * grid)]
    if isinstance(play, str) or isinstance(play[0], Segment):
        what = "free" if isinstance(play, str) else "in turns"
        raise GiustoError(f"part.play is {what}, allowed is one figure of a cycle", code="part")
    return sorted(position.parse(str(at)) for at in play)


def _next(chosen: list[Fraction], asked: list[Fraction], beats: Fraction) -> list[Fraction]:
    """Return the notes that come next: one in each of the largest gaps that has any left."""
    gaps = []
    for start, end in zip(chosen, [*chosen[1:], chosen[0] + beats], strict=True):
        inside = [at for note in asked for at in (note, note + beats) if start < at < end]
        if inside:
            gaps.append((end - start, (start + end) / 2, inside))
    largest = max(length for length, _, _ in gaps)
    nearest = (min(inside, key=lambda at: abs(at - middle)) for length, middle, inside in gaps if length == largest)
    return [at % beats for at in nearest]


def _with(drill: Drill, places: list[Fraction]) -> Drill:
    plain = drill.plain()
    plain["part"]["play"] = [position.write(at) for at in places]
    return validate(plain)
