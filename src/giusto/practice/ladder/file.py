"""The file ``ladder/1``: what varies from rung to rung, and the rule by which one climbs."""

from __future__ import annotations

from decimal import Decimal
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from giusto.drill.faults import fault_of
from giusto.drill.file import (
    HIGHEST_BPM,
    LOWEST_BPM,
    MOST_CYCLES,
    MOST_SLOTS,
    Drill,
    FixedSilence,
    Name,
    validate,
)
from giusto.drill.identity import rung_key
from giusto.drill.json_file import read_json
from giusto.errors import DrillError, Fault
from giusto.tempo_scale import notch

MOST_RUNGS = 1000  # ours: two tempi a bpm from the slowest to the fastest that a drill may have
Count = Annotated[int, Field(ge=1, le=100)]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, allow_inf_nan=False)


Bpm = Annotated[float, Field(ge=LOWEST_BPM, le=HIGHEST_BPM)]
Cycles = Annotated[int, Field(ge=1, le=MOST_CYCLES)]


class VaryTempo(_Part):
    """Tempo: from, by, up to; ``to`` is always the last rung."""

    what: Literal["tempo"]
    start: Annotated[Bpm, Field(alias="from")]
    to: Bpm
    by: Annotated[float, Field(gt=0, le=HIGHEST_BPM)] | Literal["notch"]


class VarySilence(_Part):
    """Cycles silent, in the same way."""

    what: Literal["silence"]
    start: Annotated[Cycles, Field(alias="from")]
    to: Cycles
    by: Cycles


class VaryNotes(_Part):
    """Notes to the beat."""

    what: Literal["notes"]
    steps: Annotated[tuple[Annotated[int, Field(ge=1, le=MOST_SLOTS)], ...], Field(min_length=1, strict=False)]


class VaryDrills(_Part):
    """Any drills, one a rung."""

    what: Literal["drills"]
    steps: Annotated[tuple[dict[str, Any], ...], Field(min_length=1, max_length=MOST_RUNGS, strict=False)]


Vary = Annotated[VaryTempo | VarySilence | VaryNotes | VaryDrills, Field(discriminator="what")]


class Streak(_Part):
    """So many clean attempts in a row pass a rung."""

    kind: Literal["streak"]
    clean: Count


class Stay(_Part):
    """So many minutes of clean attempts pass a rung, which is kept for the rest of that day."""

    kind: Literal["stay"]
    minutes: Annotated[float, Field(gt=0, le=10_000)]


class Edge(_Part):
    """As streak, until an attempt that isn't clean; then no rise until so many nights have passed."""

    kind: Literal["edge"]
    clean: Count
    nights: Count


class Week(_Part):
    """As streak, but no further in a week than ``by`` above what was secure when it began."""

    kind: Literal["week"]
    clean: Count
    by: Annotated[float, Field(gt=0, le=MOST_CYCLES)]


class Band(_Part):
    """Keeps the chance of a clean attempt inside a band."""

    kind: Literal["band"]
    low: Annotated[float, Field(gt=0, lt=1)]
    high: Annotated[float, Field(gt=0, lt=1)]


Rule = Annotated[Streak | Stay | Edge | Week | Band, Field(discriminator="kind")]


class Fall(_Part):
    """So many attempts in a row that aren't clean: down."""

    after: Count
    by: Count


class NextDay(_Part):
    """How far below where the last day ended a new one begins."""

    back: Annotated[int, Field(ge=0, le=100)]


class Ladder(_Part):
    """A ladder as the file has it.

    Attributes
    ----------
    fall, next_day
        As given; what is left out, or null, is what the rule has by itself: ``falls`` and ``back``.
    """

    giusto: Literal["ladder/1"]
    name: Name = ""
    drill: dict[str, Any] | None = None
    vary: Vary
    rule: Rule
    fall: Fall | None = None
    next_day: NextDay | None = None

    @cached_property
    def _all(self) -> list[tuple[float | None, Drill]]:
        return _rungs(self)

    @cached_property
    def drills(self) -> tuple[Drill, ...]:
        """The drill of each rung, the first first."""
        return tuple(drill for _, drill in self._all)

    @cached_property
    def values(self) -> tuple[float | None, ...]:
        """What varies, rung by rung: bpm, cycles or slots; None for drills."""
        return tuple(value for value, _ in self._all)

    @cached_property
    def _keys(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for rung, drill in enumerate(self.drills, start=1):
            found.setdefault(rung_key(drill), []).append(rung)
        return found

    def rung_of(self, key: str, name: str = "") -> int | None:
        """Return the rung that a drill is, None where it is none of them.

        Parameters
        ----------
        key : str
            The drill's ``rung_key``.
        name : str
            Its name: of rungs that ask for the same (clapped, then played), the one called so, else the first.
        """
        rungs = self._keys.get(key, [])
        return next((rung for rung in rungs if self.drills[rung - 1].name == name), rungs[0] if rungs else None)

    @property
    def falls(self) -> Fall | None:
        """When one falls and how far; None for never."""
        if "fall" in self.model_fields_set:
            return self.fall
        return None if self.rule.kind == "stay" else Fall(after=1, by=1)

    @property
    def back(self) -> int:
        """How many rungs a new day begins below the last."""
        return self.next_day.back if self.next_day else 0 if self.rule.kind == "stay" else 1

    def plain(self) -> dict[str, Any]:
        """Return the ladder as the file has it, with what was given and no more."""
        return self.model_dump(mode="json", by_alias=True, exclude_unset=True)


def parse_ladder(text: str | bytes) -> Ladder:
    """Read a ladder.

    Parameters
    ----------
    text : str or bytes
        JSON, UTF-8.

    Returns
    -------
    Ladder
        Each rung's drill checked.

    Raises
    ------
    DrillError
        With every fault: its path, what was found, what is allowed.
    """
    return ladder_of(read_json(text))


def ladder_of(plain: Any) -> Ladder:
    """Return the ladder of plain values, as ``json.loads`` gives them, checked as ``parse_ladder`` does."""
    if not isinstance(plain, dict):
        raise DrillError([Fault("", f"a ladder is a JSON object, not {type(plain).__name__}", "not_object")])
    try:
        ladder = Ladder.model_validate(plain)
    except ValidationError as error:
        faults = [fault_of({**detail, "loc": _plain_place(detail["loc"])}) for detail in error.errors()]
        raise DrillError(list({fault.path: fault for fault in faults}.values())) from None
    if faults := list(_faults(ladder)):
        raise DrillError(faults)
    _ = ladder.drills  # each rung's drill is checked now
    return ladder


def _plain_place(place: tuple[int | str, ...]) -> tuple[int | str, ...]:
    """Return a fault's place without the branches of unions, which no reader of the file sees."""
    inside = place[2:] if place[:1] in (("rule",), ("vary",)) else place[1:]
    return (*place[:1], *(step for step in inside if isinstance(step, int) or step.isidentifier()))


def _faults(ladder: Ladder):  # type: ignore[no-untyped-def]
    vary, rule = ladder.vary, ladder.rule
    if isinstance(vary, VaryTempo | VarySilence) and vary.to < vary.start:
        yield Fault("vary.to", f"is {vary.to:g}, allowed is at least vary.from, {vary.start:g}", "range")
    if ladder.drill is None and not isinstance(vary, VaryDrills):
        yield Fault("drill", "is missing, and is required", "missing")
    if isinstance(rule, Week) and not isinstance(vary, VaryTempo | VarySilence):
        yield Fault("rule.kind", 'is "week", allowed only where vary.what is tempo or silence', "rule")
    if isinstance(rule, Band) and rule.low >= rule.high:
        yield Fault("rule.high", f"is {rule.high:g}, allowed is more than rule.low, {rule.low:g}", "range")


def _rungs(ladder: Ladder) -> list[tuple[float | None, Drill]]:
    vary = ladder.vary
    if isinstance(vary, VaryDrills):
        return [(None, _checked(plain, f"vary.steps[{index}]")) for index, plain in enumerate(vary.steps)]
    plain = ladder.drill or {}
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
