"""The file ``routine/1``: on which days, from when, how long, in which blocks, with which exercises."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import date, time
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from giusto.drill.faults import fault_of
from giusto.drill.file import PRINTED
from giusto.drill.json_file import read_json
from giusto.errors import DrillError, Fault

MINUTES_A_DAY = 24 * 60
MOST_EXERCISES, MOST_BLOCKS, MOST_KEYS = 200, 20, 100  # ours
WEEKDAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
CLOCK = re.compile(r"([01][0-9]|2[0-3]):[0-5][0-9]")

Weekday = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
Name = Annotated[str, Field(min_length=1, max_length=120, pattern=PRINTED)]
Minutes = Annotated[int, Field(ge=1, le=MINUTES_A_DAY)]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, allow_inf_nan=False)


def _a_clock(text: str) -> str:
    if not CLOCK.fullmatch(text):
        raise ValueError('allowed is a time such as "18:00"')
    return text


def _a_zone(text: str) -> str:
    try:
        ZoneInfo(text)
    except (KeyError, ValueError, OSError):  # no name of a zone, a folder of them, or none that this machine has
        raise ValueError('allowed is the name of a time zone such as "Europe/Vienna"') from None
    return text


def _a_date(text: str) -> str:
    try:
        if re.fullmatch(r"[0-9]{4}-[0-9]{2}-[0-9]{2}", text):
            date.fromisoformat(text)
            return text
    except ValueError:
        pass
    raise ValueError('allowed is a date such as "2026-11-30"')


Zone = Annotated[str, Field(max_length=60), AfterValidator(_a_zone)]
Clock = Annotated[str, AfterValidator(_a_clock)]
Day = Annotated[str, AfterValidator(_a_date)]


class Block(_Part):
    """A part of the session: how long it may be, and whether it stretches and shrinks first."""

    name: Name
    minutes: Annotated[tuple[Minutes, ...], Field(strict=False, min_length=1, max_length=2)]
    flexible: bool = False

    @property
    def least(self) -> int:
        """The fewest minutes that it may have."""
        return self.minutes[0]

    @property
    def most(self) -> int:
        """The most minutes that it may have."""
        return self.minutes[-1]


class Keys(_Part):
    """Keys that are gone through in turn."""

    all: Annotated[tuple[Name, ...], Field(min_length=1, max_length=MOST_KEYS, strict=False)]
    per_session: Annotated[int, Field(ge=1, le=MOST_KEYS)] = 1


class Season(_Part):
    """Weeks on and weeks off in turn, from a day on; before it, off."""

    start: Annotated[Day, Field(alias="from")]
    weeks_on: Annotated[int, Field(ge=1, le=520)]
    weeks_off: Annotated[int, Field(ge=0, le=520)]

    @property
    def first(self) -> date:
        """Its first day."""
        return date.fromisoformat(self.start)


class Exercise(_Part):
    """What is practised in a block."""

    name: Name
    block: Name
    minutes: Minutes
    keys: Keys | None = None
    season: Season | None = None
    ladder: Name | None = None


class Routine(_Part):
    """A routine as the file has it."""

    giusto: Literal["routine/1"]
    days: Annotated[tuple[Weekday, ...], Field(min_length=1, max_length=7, strict=False)]
    minutes: Minutes
    start: Clock
    zone: Zone
    blocks: Annotated[tuple[Block, ...], Field(min_length=1, max_length=MOST_BLOCKS, strict=False)]
    exercises: Annotated[tuple[Exercise, ...], Field(max_length=MOST_EXERCISES, strict=False)] = ()

    @property
    def least(self) -> int:
        """The shortest session that its blocks allow, in minutes."""
        return sum(block.least for block in self.blocks)

    @property
    def most(self) -> int:
        """The longest."""
        return sum(block.most for block in self.blocks)

    @property
    def starts(self) -> time:
        """When a session starts, by the clock of its zone."""
        return time.fromisoformat(self.start)

    def is_on(self, day: date) -> bool:
        """Return whether a day is one of practice."""
        return WEEKDAYS[day.weekday()] in self.days

    def plain(self) -> dict[str, Any]:
        """Return the routine as the file has it, with what was given and no more."""
        return self.model_dump(mode="json", by_alias=True, exclude_unset=True)


def parse_routine(text: str | bytes) -> Routine:
    """Read a routine.

    Parameters
    ----------
    text : str or bytes
        JSON, UTF-8.

    Raises
    ------
    DrillError
        With every fault: its path, what was found, what is allowed.
    """
    return routine_of(read_json(text))


def routine_of(found: object) -> Routine:
    """Check plain values, as ``json.loads`` gives them, and return the routine.

    Raises
    ------
    DrillError
        As ``parse_routine``.
    """
    if not isinstance(found, dict):
        raise DrillError([Fault("", f"a routine is a JSON object, not {type(found).__name__}", "not_object")])
    try:
        routine = Routine.model_validate(found)
    except ValidationError as error:
        faults = [_fault(detail) for detail in error.errors()]
        raise DrillError(list({fault.path: fault for fault in faults}.values())) from None
    if faults := list(_faults(routine)):
        raise DrillError(faults)
    return routine


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of ``routine/1``; what depends on other fields or on the clock is checked beside it."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Routine.model_json_schema(by_alias=True)}


def _fault(detail: Any) -> Fault:
    place = tuple(step for step in detail["loc"] if isinstance(step, int) or not step.startswith("tuple["))
    if detail["type"] == "value_error":
        path = "".join(f"[{step}]" if isinstance(step, int) else f".{step}" for step in place).lstrip(".")
        return Fault(path, f'is "{str(detail["input"])[:40]}", {detail["ctx"]["error"]}', "value")
    return fault_of({**detail, "loc": place})


def _faults(routine: Routine) -> Iterator[Fault]:
    names = [block.name for block in routine.blocks]
    for path, some in (("blocks", names), ("days", routine.days)):
        if len(set(some)) < len(some):
            yield Fault(path, "one stands twice, allowed is each once", "twice")
    for index, block in enumerate(routine.blocks):
        if block.most < block.least:
            problem = f"is {block.most}, allowed is at least the first, {block.least}"
            yield Fault(f"blocks[{index}].minutes[1]", problem, "range")
    if routine.minutes < routine.least:
        yield Fault("minutes", f"is {routine.minutes}, allowed is at least the blocks' least, {routine.least}", "range")
    begins = routine.starts.hour * 60 + routine.starts.minute
    if begins + routine.most > MINUTES_A_DAY:
        problem = f'is "{routine.start}", allowed is a time from which {routine.most} minutes end on the same day'
        yield Fault("start", problem, "range")
    for index, exercise in enumerate(routine.exercises):
        yield from _faults_of(exercise, f"exercises[{index}]", names)


def _faults_of(exercise: Exercise, where: str, blocks: list[str]) -> Iterator[Fault]:
    if exercise.block not in blocks:
        allowed = ", ".join(f'"{name}"' for name in blocks)
        yield Fault(f"{where}.block", f'is "{exercise.block}", allowed is one of {allowed}', "block")
    if keys := exercise.keys:
        if len(set(keys.all)) < len(keys.all):
            yield Fault(f"{where}.keys.all", "a key stands twice, allowed is once", "twice")
        if keys.per_session > len(keys.all):
            problem = f"is {keys.per_session}, allowed are at most all {len(keys.all)}"
            yield Fault(f"{where}.keys.per_session", problem, "range")
