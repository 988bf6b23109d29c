"""The file ``ladder/1``: what varies from rung to rung, and the rule by which one climbs."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from giusto.drill.faults import fault_of
from giusto.drill.file import DRAFT, Drill, Name
from giusto.drill.identity import rung_key
from giusto.drill.json_file import read_json
from giusto.errors import DrillError, Fault
from giusto.practice.ladder.rules import AnyRule, Fall
from giusto.practice.ladder.rules.rule import LadderPart
from giusto.practice.ladder.rungs import Vary, VaryDrills, VarySilence, VaryTempo, rungs
from giusto.practice.ladder.state import Terms


class NextDay(LadderPart):
    """How far below where the last day ended a new one begins."""

    back: Annotated[int, Field(ge=0, le=100)]


class Ladder(LadderPart):
    """A ladder as the file has it.

    Attributes
    ----------
    fall, next_day
        As given; ``terms`` says what is meant where they are left out.
    """

    giusto: Literal["ladder/1"]
    name: Name = ""
    drill: dict[str, Any] | None = None
    vary: Vary
    rule: AnyRule
    fall: Fall | None = None
    next_day: NextDay | None = None

    @cached_property
    def _all(self) -> list[tuple[float | None, Drill]]:
        return rungs(self.vary, self.drill or {})

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

    @cached_property
    def terms(self) -> Terms:
        """What the ladder sets beside its rule: what its file leaves out, the rule has by itself."""
        fall = self.fall if "fall" in self.model_fields_set else self.rule.usual_fall
        back = self.next_day.back if self.next_day else self.rule.usual_back
        return Terms(self.values, fall.after if fall else 0, fall.by if fall else 1, back)

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


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of ``ladder/1``; rules between fields stand in ``docs/formats.md``."""
    return {"$schema": DRAFT, **Ladder.model_json_schema(by_alias=True)}


def _faults(ladder: Ladder) -> Iterator[Fault]:
    vary = ladder.vary
    if isinstance(vary, VaryTempo | VarySilence) and vary.to < vary.start:
        yield Fault("vary.to", f"is {vary.to:g}, allowed is at least vary.from, {vary.start:g}", "range")
    if ladder.drill is None and not isinstance(vary, VaryDrills):
        yield Fault("drill", "is missing, and is required", "missing")
    yield from ladder.rule.faults(vary.what)
