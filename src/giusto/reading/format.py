"""``reading/1``: the types of its fields, its schema, and reading older files of it.

Fields that were added after the first version have defaults, so that every older ``reading/1`` is read;
fields that a newer one may add are left aside (decision 13).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, fields, replace
from functools import cache
from typing import Any, Literal

from pydantic import TypeAdapter, ValidationError

from giusto.arrays import FloatArray, IntArray
from giusto.errors import GiustoError
from giusto.figures.accents import Accents
from giusto.figures.beat_leans import BeatLean
from giusto.figures.correction import Correction
from giusto.figures.doubles import Doubles
from giusto.figures.drift_shape import DriftShape
from giusto.figures.fatigue import Fatigue
from giusto.figures.hands import Hand
from giusto.figures.note_and_click import Together
from giusto.figures.place import Place
from giusto.figures.rhythm import Length, SlotLean, Swing
from giusto.figures.silence import SilenceReading
from giusto.figures.tempo_thread import TempoThread
from giusto.figures.tendency import Tendency
from giusto.figures.variability import Variability
from giusto.hearing.source import Source
from giusto.missing import Missing


@dataclass(frozen=True, slots=True)
class Counts:
    """How many notes were asked, played, paired, missed and added."""

    expected: int
    played: int
    matched: int
    missed: int
    extra: int


@dataclass(frozen=True, slots=True)
class Match:
    """A caught note; its error is played minus expected, so positive is late."""

    cycle: int
    position: str
    expected_s: float
    played_s: float
    error_ms: float


@dataclass(frozen=True, slots=True)
class Missed:
    """An asked note that was not caught."""

    cycle: int
    position: str
    expected_s: float


@dataclass(frozen=True, slots=True)
class Extra:
    """A played note that fits no asked one."""

    played_s: float


@dataclass(frozen=True, slots=True)
class Reading:
    """One take, as ``reading/1``; ``docs/formats.md`` defines each field."""

    giusto: Literal["reading/1"]
    onsets: Counts
    matches: list[Match]
    missed: list[Missed]
    extra: list[Extra]
    heard: Place
    silences: list[SilenceReading]
    tendency: Tendency | None = None
    variability: Variability | None = None
    correction: Correction | None = None
    rhythm: list[SlotLean] | None = None
    notes: list[str] = field(default_factory=list)
    lengths: list[Length] | None = None
    swing: Swing | None = None
    course: DriftShape | None = None
    together: Together | None = None
    fatigue: Fatigue | None = None
    places: list[BeatLean] | None = None
    missing: list[Missing] = field(default_factory=list)
    source: Source | None = None
    tempo: TempoThread | None = None
    hands: list[Hand] | None = None
    accents: Accents | None = None
    doubles: Doubles | None = None

    def plain(self) -> dict[str, Any]:
        """Return the reading as what ``json.dumps`` takes."""
        long = {name: _rows(getattr(self, name)) for name in ("matches", "missed", "extra")}
        return asdict(replace(self, matches=[], missed=[], extra=[])) | long


@dataclass(frozen=True, slots=True)
class Thread:
    """The clock's way through the take, against the player's place, for drawing.

    Attributes
    ----------
    tick : array of int, shape (n,)
        Drill time of each moment, in the schedule's ticks.
    clock_ms, half_ms : array of float, shape (n,)
        Clock error and half its 95 % range; late is positive.
    note_ms : array of float, shape (n,)
        The caught note's own error, its slot's lean taken off; NaN where there is none.
    """

    tick: IntArray
    clock_ms: FloatArray
    half_ms: FloatArray
    note_ms: FloatArray


def _rows(some: Sequence[Any]) -> list[dict[str, Any]]:
    """Return flat records as ``asdict`` does, whose copies of copies are slow for the notes of a long take."""
    if not some:
        return []
    names = [field.name for field in fields(some[0])]
    return [{name: getattr(one, name) for name in names} for one in some]


@cache
def _adapter() -> TypeAdapter[Reading]:
    return TypeAdapter(Reading)


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of ``reading/1``."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **_adapter().json_schema()}


def parse(plain: dict[str, Any]) -> Reading:
    """Return a reading from what ``plain`` made of it, through JSON or not, by this version or an earlier one.

    Raises
    ------
    GiustoError
        ``reading``, where it is no ``reading/1``.
    """
    try:
        return _adapter().validate_python(plain)
    except ValidationError as error:
        fault = error.errors()[0]
        where = ".".join(str(part) for part in fault["loc"])
        raise GiustoError(f"not a reading/1: {where}: {fault['msg']}", code="reading") from None
