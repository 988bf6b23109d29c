"""The rungs of a ladder: what varies from one to the next, laid out, one checked drill a rung."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import Field

from giusto.drill.file import (
    HIGHEST_BPM,
    LOWEST_BPM,
    MOST_CYCLES,
    MOST_SLOTS,
    Drill,
    FixedSilence,
    validate,
)
from giusto.errors import DrillError, Fault
from giusto.practice.ladder.rules.rule import LadderPart
from giusto.tempo_scale import notch

MOST_RUNGS = 1000  # ours: two tempi a bpm from the slowest to the fastest that a drill may have
Bpm = Annotated[float, Field(ge=LOWEST_BPM, le=HIGHEST_BPM)]
Cycles = Annotated[int, Field(ge=1, le=MOST_CYCLES)]


class VaryTempo(LadderPart):
    """Tempo: from, by, up to; ``to`` is always the last rung."""

    what: Literal["tempo"]
    start: Annotated[Bpm, Field(alias="from")]
    to: Bpm
    by: Annotated[float, Field(gt=0, le=HIGHEST_BPM)] | Literal["notch"]


class VarySilence(LadderPart):
    """Cycles silent, in the same way."""

    what: Literal["silence"]
    start: Annotated[Cycles, Field(alias="from")]
    to: Cycles
    by: Cycles


class VaryNotes(LadderPart):
    """Notes to the beat."""

    what: Literal["notes"]
    steps: Annotated[tuple[Annotated[int, Field(ge=1, le=MOST_SLOTS)], ...], Field(min_length=1, strict=False)]


class VaryDrills(LadderPart):
    """Any drills, one a rung."""

    what: Literal["drills"]
    steps: Annotated[tuple[dict[str, Any], ...], Field(min_length=1, max_length=MOST_RUNGS, strict=False)]


Vary = Annotated[VaryTempo | VarySilence | VaryNotes | VaryDrills, Field(discriminator="what")]


def rungs(vary: Vary, plain: dict[str, Any]) -> list[tuple[float | None, Drill]]:
    """Return what varies and the checked drill, rung by rung.

    Parameters
    ----------
    vary : Vary
    plain : dict
        The first rung's drill, as JSON has it; not looked at where the drills are listed.

    Raises
    ------
    DrillError
        With the place of each fault in the ladder's file.
    """
    if isinstance(vary, VaryDrills):
        return [(None, _checked(plain, f"vary.steps[{index}]")) for index, plain in enumerate(vary.steps)]
    first = _checked(plain, "drill")
    if isinstance(vary, VaryTempo):
        return [(bpm, _with(first, tempo={"bpm": bpm})) for bpm in _tempi(vary)]
    if isinstance(vary, VaryNotes):
        return [(grid, _with(first, part={"grid": grid})) for grid in vary.steps]
    if not isinstance(first.clicks.silence, FixedSilence):
        problem = "has no fixed silence, and vary.what is silence"
        raise DrillError([Fault("drill.clicks.silence", problem, "silence")])
    return [(n, _with(first, silence={"silent": n})) for n in _up_to(vary.start, vary.to, vary.by)]


def _tempi(vary: VaryTempo) -> list[float]:
    if vary.by != "notch":
        steps = _up_to(Decimal(str(vary.start)), Decimal(str(vary.to)), Decimal(str(vary.by)))
        return [float(bpm) for bpm in steps]
    found = [vary.start]
    while found[-1] < vary.to:
        above = notch(found[-1], 1)
        found.append(above if found[-1] < above < vary.to else vary.to)
    return found


def _up_to(start: Any, to: Any, by: Any) -> list[Any]:
    """Return start, start + by, … and to, which is always the last."""
    if (to - start) / by >= MOST_RUNGS:
        raise DrillError([Fault("vary.by", f"is {by}, allowed are at most {MOST_RUNGS} rungs", "range")])
    found = [start]
    while found[-1] < to:
        found.append(min(found[-1] + by, to))
    return found


def _with(drill: Drill, *, silence: dict[str, Any] | None = None, **parts: dict[str, Any]) -> Drill:
    """Return the drill with some fields changed, checked again."""
    plain = drill.plain()
    for name, fields in parts.items():
        plain[name] |= fields
    if silence:
        plain["clicks"]["silence"] |= silence
    return validate(plain)


def _checked(plain: dict[str, Any], where: str) -> Drill:
    """Return a drill of the file; its faults name their place in it."""
    try:
        return validate(plain)
    except DrillError as error:
        placed = [Fault(f"{where}.{f.path}" if f.path else where, f.problem, f.code) for f in error.faults]
        raise DrillError(placed) from None
