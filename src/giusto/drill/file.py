"""The drill file, ``drill/1`` to ``drill/3``: what clicks, what is played, how long.

The models mirror the file field by field. ``parse`` turns text into a ``Drill`` or raises one
``DrillError`` that names every fault; ``docs/formats.md`` is the format for its users.
"""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from math import lcm
from typing import Annotated, Any, Literal

from pydantic import (
    BaseModel,
    ConfigDict,
    Discriminator,
    Field,
    PlainSerializer,
    SerializerFunctionWrapHandler,
    StringConstraints,
    Tag,
    ValidationError,
    model_serializer,
)

from giusto.drill import position
from giusto.drill.faults import fault_of
from giusto.drill.json_file import read_json
from giusto.errors import DrillError, Fault

LOWEST_BPM, HIGHEST_BPM = 10, 400  # by the contract of drill/1, as the next three
MOST_BEATS, MOST_SLOTS, MOST_CYCLES = 64, 8, 2000
MOST_PLACES, MOST_SEGMENTS = 512, 200
DRAFT = "https://json-schema.org/draft/2020-12/schema"
MOST_OUTER = 8  # count-in and closing cycles
HALF = Fraction(1, 2)  # the part of a beat that swings
STRAIGHT, MOST_SWING = 1.0, 3.0  # by the contract of drill/3: long to short of a beat's two halves
FINEST_SWING = 1_000_000  # ours: a swung half is exact to five decimals of its ratio, and to a microsecond beyond
# Fields that came with a later version of the file, and the version that has them first.
SINCE = {("tempo", "steps"): 2, ("clicks", "swing"): 3}

MAX_TICKS_PER_BEAT = 10**9  # ours: keeps 128,512 beats of ticks exact in 64 bits and in a double

Position = Annotated[str, Field(pattern=position.PATTERN, description="A place in the cycle, from beat 1")]
PartOfBeat = Annotated[str, Field(pattern=r"^[1-9][0-9]{0,3}/[1-9][0-9]{0,3}$")]
NOTE_VALUE = r"^[1-9][0-9]?/(1|2|4|8|16|32)$"
NoteValue = Annotated[str, Field(pattern=NOTE_VALUE)]
PRINTED = r"^[^\x00-\x1f\x7f]*$"  # no control characters
Name = Annotated[str, StringConstraints(max_length=120, pattern=PRINTED)]


def _plain_number(value: float) -> float | int:
    return int(value) if value.is_integer() else value


def _without(plain: dict[str, Any], name: str) -> dict[str, Any]:
    return {key: value for key, value in plain.items() if key != name}


class _Part(BaseModel):
    """What all parts of the file share: no unknown fields, no coercion, no change afterwards."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, allow_inf_nan=False)


Cycles = Annotated[int, Field(ge=1, le=MOST_CYCLES)]
Bpm = Annotated[float, Field(ge=LOWEST_BPM, le=HIGHEST_BPM), PlainSerializer(_plain_number)]
Places = Annotated[tuple[Position, ...], Field(strict=False, min_length=1, max_length=MOST_PLACES)]


def _by_tag(by: object) -> str | None:
    if isinstance(by, str):
        return "notch"
    return "number" if isinstance(by, int | float) and not isinstance(by, bool) else None


class TempoSteps(_Part):
    """The tempo changes by a step after every so many cycles, up or down to a last one (``drill/2``)."""

    every_cycles: Cycles
    by: Annotated[
        Annotated[Literal["notch"], Tag("notch")]
        | Annotated[float, Field(ge=-HIGHEST_BPM, le=HIGHEST_BPM), PlainSerializer(_plain_number), Tag("number")],
        Discriminator(_by_tag, custom_error_type="step", custom_error_message='a number of bpm or "notch"'),
    ]
    to: Bpm
    on: Literal["sounding", "any"] = "sounding"


class Tempo(_Part):
    """How fast: ``bpm`` beats a minute, each beat worth ``beat`` of a whole note; and how that changes."""

    bpm: Bpm
    beat: NoteValue = "1/4"
    steps: TempoSteps | None = None

    @model_serializer(mode="wrap")
    def _as_before(self, serialize: SerializerFunctionWrapHandler) -> dict[str, Any]:
        """Leave out what ``drill/1`` does not know, where it says nothing."""
        return _without(serialize(self), "steps" if self.steps is None else "")


class Cycle(_Part):
    """The stretch that repeats: a bar, a tala cycle."""

    beats: Annotated[int, Field(ge=1, le=MOST_BEATS)]
    groups: Annotated[tuple[Annotated[int, Field(ge=1, le=MOST_BEATS)], ...] | None, Field(strict=False)] = None

    @property
    def grouping(self) -> tuple[int, ...]:
        """The groups, one group of all beats where the file names none."""
        return self.groups or (self.beats,)


class FixedSilence(_Part):
    """``heard`` cycles sound, then ``silent`` are silent, again and again."""

    kind: Literal["fixed"]
    heard: Cycles
    silent: Cycles


class GrowingSilence(_Part):
    """Each silence is ``step`` cycles longer than the one before, up to ``max``."""

    kind: Literal["growing"]
    heard: Cycles
    silent: Cycles
    step: Cycles
    max: Cycles


class RandomSilence(_Part):
    """After the first cycle each unit is silent by chance, never more than ``longest`` in a row."""

    kind: Literal["random"]
    unit: Literal["beat", "cycle"]
    probability: Annotated[float, Field(ge=0, le=1)]
    longest: Cycles
    seed: Annotated[int, Field(ge=0, le=2**53 - 1)]


class Shift(_Part):
    """After every ``every_cycles`` cycles all clicks move by a part of a beat."""

    every_cycles: Cycles
    by: PartOfBeat


class Clicks(_Part):
    """Where the click sounds."""

    on: Places
    every: Cycles = 1
    silence: Annotated[FixedSilence | GrowingSilence | RandomSilence | None, Field(discriminator="kind")] = None
    shift: Shift | None = None
    accent: Literal["none", "first", "groups"] = "none"
    subdivide: Annotated[int, Field(ge=1, le=MOST_SLOTS)] = 1
    swing: Annotated[float, Field(ge=STRAIGHT, le=MOST_SWING), PlainSerializer(_plain_number)] = STRAIGHT

    @property
    def swung_half(self) -> Fraction:
        """Where the second half of a beat sounds, as a part of the beat: 1/2 straight, 2/3 for a triplet's last."""
        swing = Fraction(str(self.swing))
        return (swing / (1 + swing)).limit_denominator(FINEST_SWING)

    @model_serializer(mode="wrap")
    def _as_before(self, serialize: SerializerFunctionWrapHandler) -> dict[str, Any]:
        """Leave out what ``drill/1`` and ``drill/2`` do not know, where it says nothing."""
        return _without(serialize(self), "swing" if self.swing == STRAIGHT else "")


class Segment(_Part):
    """``cycles`` cycles in which the player plays ``at`` these places."""

    cycles: Cycles
    at: Places


def _play_tag(play: object) -> str | None:
    if isinstance(play, str):
        return "word"
    if isinstance(play, list | tuple):
        return "segments" if play and isinstance(play[0], dict | Segment) else "places"
    return None


class Part(_Part):
    """What the player plays."""

    grid: Annotated[int, Field(ge=1, le=MOST_SLOTS)]
    play: Annotated[
        Annotated[Literal["grid", "free"], Tag("word")]
        | Annotated[Places, Tag("places")]
        | Annotated[tuple[Segment, ...], Field(strict=False, min_length=1, max_length=MOST_SEGMENTS), Tag("segments")],
        Discriminator(
            _play_tag,
            custom_error_type="play",
            custom_error_message='"grid", "free", a list of places or a list of segments',
        ),
    ] = "grid"


class Drill(_Part):
    """A whole drill: the click, the part and how long they go on."""

    giusto: Literal["drill/1", "drill/2", "drill/3"]
    name: Name = ""
    tempo: Tempo
    cycle: Cycle
    clicks: Clicks
    part: Part
    count_in: Annotated[int, Field(ge=0, le=MOST_OUTER)] = 1
    cycles: Cycles
    close: Annotated[int, Field(ge=0, le=MOST_OUTER)] = 1

    def plain(self) -> dict[str, Any]:
        """Return the drill as what ``json.dumps`` takes."""
        return self.model_dump(mode="json")


class NoClicks(Clicks):
    """A click that sounds nowhere."""

    on: Annotated[tuple[Position, ...], Field(strict=False, max_length=0)]
    silence: None = None  # there is nothing to fall silent


class FreeDrill(Drill):
    """A drill without a click: a count-in only, or nothing (``free/1``)."""

    giusto: Literal["free/1"]  # type: ignore[assignment]  # a file of its own
    clicks: NoClicks


def parse(text: str | bytes) -> Drill:
    """Read a drill file.

    Parameters
    ----------
    text : str or bytes
        JSON, UTF-8.

    Returns
    -------
    Drill

    Raises
    ------
    DrillError
        With every fault, its path, what was found and what is allowed.
    """
    return validate(read_json(text))


def validate(found: object) -> Drill:
    """Check plain values, as ``json.loads`` gives them, and return the drill.

    Raises
    ------
    DrillError
        As ``parse``.
    """
    if not isinstance(found, dict):
        raise DrillError([Fault("", f"a drill is a JSON object, not {type(found).__name__}", "not_object")])
    kind = FreeDrill if found.get("giusto") == "free/1" else Drill
    try:
        drill = kind.model_validate(found)
    except ValidationError as error:
        raise DrillError([fault_of(detail) for detail in error.errors()]) from None
    checks = (_version_faults, _tempo_faults, _cycle_faults, _click_faults, _part_faults)
    if faults := [fault for check in checks for fault in check(drill)]:
        raise DrillError(faults)
    return _canonical(drill)


def ticks_per_beat(drill: Drill) -> int:
    """Return the fewest equal parts of a beat on which all clicks and slots of the drill fall."""
    shift = drill.clicks.shift
    moved = Fraction(shift.by).denominator if shift else 1
    clicks = (position.parse(text).denominator for text in drill.clicks.on)
    swung = 1 if drill.clicks.swing == STRAIGHT else lcm(2, drill.clicks.swung_half.denominator)
    return lcm(drill.part.grid, drill.clicks.subdivide, moved, swung, *clicks)


def swung(drill: Drill, place: Fraction) -> Fraction:
    """Return when what is written at a place of the cycle, in beats, sounds or is asked: the rest stays where it is."""
    beat, part = divmod(place, 1)
    return beat + drill.clicks.swung_half if part == HALF else place


def json_schema(version: int) -> dict[str, Any]:
    """Return the JSON Schema of ``drill/1``, 2 or 3; rules between fields stand in ``docs/formats.md``."""
    schema = Drill.model_json_schema(mode="validation")
    schema["properties"]["giusto"] = {"const": f"drill/{version}", "title": "Giusto", "type": "string"}
    for (part, name), since in SINCE.items():
        if version < since:
            del schema["$defs"][part.capitalize()]["properties"][name]
    if version < SINCE["tempo", "steps"]:
        del schema["$defs"]["TempoSteps"]
    return {"$schema": DRAFT, **schema}


def free_schema() -> dict[str, Any]:
    """Return the JSON Schema of ``free/1``."""
    schema = FreeDrill.model_json_schema(mode="validation")
    del schema["$defs"]["NoClicks"]["properties"]["swing"]
    return {"$schema": DRAFT, **schema}


def _canonical(drill: Drill) -> Drill:
    """Return the drill with each place in its one spelling, ascending: ``"2+2/4"`` is ``"2+1/2"``."""
    clicks, play = drill.clicks, drill.part.play
    named: object = play
    shift = clicks.shift and clicks.shift.model_copy(update={"by": str(Fraction(clicks.shift.by))})
    if not isinstance(play, str):
        segments = [piece for piece in play if isinstance(piece, Segment)]
        named = tuple(piece.model_copy(update={"at": _spelled(piece.at)}) for piece in segments) or _spelled(play)
    return drill.model_copy(
        update={
            "clicks": clicks.model_copy(update={"on": _spelled(clicks.on), "shift": shift}),
            "part": drill.part.model_copy(update={"play": named}),
        }
    )


def _spelled(places: Iterable[Any]) -> tuple[str, ...]:
    return tuple(position.write(place) for place in sorted(position.parse(text) for text in places))


def _version_faults(drill: Drill) -> list[Fault]:
    """Refuse the fields that came with a later version than the file says; free/1 has what drill/2 has."""
    kind, version = drill.giusto.split("/")
    knows = 2 if kind == "free" else int(version)
    return [
        Fault(f"{part}.{name}", f"is not a field that {drill.giusto} may have; drill/{since} has it", "unknown_field")
        for (part, name), since in SINCE.items()
        if since > knows and name in getattr(drill, part).model_fields_set
    ]


def _tempo_faults(drill: Drill) -> list[Fault]:
    tempo, steps = drill.tempo, drill.tempo.steps
    if steps is None or steps.by == "notch":
        return []
    if not steps.by:
        return [Fault("tempo.steps.by", 'is 0, allowed is a number of bpm other than 0, or "notch"', "range")]
    if (steps.to - tempo.bpm) * steps.by < 0:
        sign, side = ("below 0", "below") if steps.by > 0 else ("above 0", "above")
        problem = f"is {steps.by:g}, allowed is {sign}: tempo.steps.to, {steps.to:g}, lies {side} tempo.bpm"
        return [Fault("tempo.steps.by", problem, "range")]
    return []


def _cycle_faults(drill: Drill) -> list[Fault]:
    total = sum(drill.cycle.grouping)
    if total == drill.cycle.beats:
        return []
    problem = f"is a sum of {total}, allowed is the cycle's {drill.cycle.beats} beats"
    return [Fault("cycle.groups", problem, "groups_sum")]


def _click_faults(drill: Drill) -> list[Fault]:
    faults = _place_faults(drill.clicks.on, path="clicks.on", beats=drill.cycle.beats)
    if not faults and ticks_per_beat(drill) > MAX_TICKS_PER_BEAT:
        problem = f"divides the beat into {ticks_per_beat(drill):,} parts, allowed is {MAX_TICKS_PER_BEAT:,}"
        faults.append(Fault("clicks.on", problem, "too_fine"))
    silence = drill.clicks.silence
    if isinstance(silence, GrowingSilence) and silence.max < silence.silent:
        problem = f"is {silence.max}, allowed is {silence.silent} (clicks.silence.silent) or more"
        faults.append(Fault("clicks.silence.max", problem, "range"))
    if drill.clicks.shift and Fraction(drill.clicks.shift.by) >= 1:
        problem = f'is "{drill.clicks.shift.by}", allowed is a part of a beat below 1'
        faults.append(Fault("clicks.shift.by", problem, "range"))
    return faults


def _part_faults(drill: Drill) -> list[Fault]:
    play, grid = drill.part.play, drill.part.grid
    if isinstance(play, str):
        return []
    if isinstance(play[0], Segment):
        lists = {f"part.play[{i}].at": segment.at for i, segment in enumerate(play)}
    else:
        lists = {"part.play": play}
    return [
        fault
        for path, places in lists.items()
        for fault in _place_faults(places, path=path, beats=drill.cycle.beats, grid=grid)
    ]


def _place_faults(places: tuple[str, ...], *, path: str, beats: int, grid: int | None = None) -> list[Fault]:
    faults, seen = [], set()
    for index, text in enumerate(places):
        where = f"{path}[{index}]"
        try:
            place = position.parse(text)
        except ValueError:
            faults.append(Fault(where, f'is "{text}", allowed is {position.RULE}', "position"))
            continue
        if place >= beats:
            faults.append(Fault(where, f'is "{text}", allowed are places in a cycle of {beats} beats', "position"))
        elif place in seen:
            faults.append(Fault(where, f'is "{text}" a second time, allowed is once', "twice"))
        elif grid is not None and (place * grid).denominator != 1:
            problem = f'is "{text}", allowed are the slots of part.grid, {grid} a beat'
            faults.append(Fault(where, problem, "off_grid"))
        seen.add(place)
    return faults
