"""The facts of a take: one record, from which everything over takes is told, and nothing else."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any, TypeVar
from uuid import UUID

from pydantic import TypeAdapter, ValidationError

from giusto.figures.beat_leans import BeatLean
from giusto.figures.correction import Correction
from giusto.figures.place import Place
from giusto.figures.rhythm import Swing
from giusto.figures.tendency import Tendency
from giusto.figures.variability import Variability
from giusto.hearing.inputs import Input
from giusto.practice.clean import LIMITS, Limits, Margins, cleanness, in_the_end, is_clean, is_easy
from giusto.ranges import Range
from giusto.timekeeper.prior import Seen

SECONDS_A_DAY, SECONDS_A_MINUTE = 86_400, 60
T = TypeVar("T")


class Figures:
    """Some figures of a reading, typed as they are asked for: what a page does not look at costs it nothing.

    Parameters
    ----------
    plain : mapping
        Of a ``reading/1`` without its lists of notes and silences: fields by name, as JSON holds them. One that is
        not in it was not asked for.
    """

    __slots__ = ("_plain",)

    def __init__(self, plain: Mapping[str, Any]) -> None:
        self._plain = plain

    @property
    def heard(self) -> Place | None:
        """Place with the click."""
        return self._typed("heard", Place)

    @property
    def tendency(self) -> Tendency | None:
        """The bias that silences share."""
        return self._typed("tendency", Tendency)

    @property
    def variability(self) -> Variability | None:
        """Clock and hand."""
        return self._typed("variability", Variability)

    @property
    def correction(self) -> Correction | None:
        """What a click takes back."""
        return self._typed("correction", Correction)

    @property
    def swing(self) -> Swing | None:
        """Long to short."""
        return self._typed("swing", Swing)

    @property
    def places(self) -> list[BeatLean]:
        """The beats of the cycle; none where they are not known."""
        found = (_typed(one, BeatLean) for one in self._plain["places"] or ())
        return [one for one in found if one]

    @property
    def sizes(self) -> Seen | None:
        """Clock, hand and correction as the take alone says them."""
        return self._typed("sizes", Seen)

    def _typed(self, name: str, kind: type[T]) -> T | None:
        return _typed(self._plain[name], kind)


_KINDS: tuple[type[Any], ...] = (Place, Tendency, Variability, Correction, Swing, BeatLean, Seen)
_ADAPTERS: dict[type[Any], TypeAdapter[Any]] = {kind: TypeAdapter(kind) for kind in _KINDS}


def _typed(plain: Any, kind: type[T]) -> T | None:
    """Return a figure as its type; None where another version wrote it so that nobody can read it."""
    try:
        found: T | None = None if plain is None else _ADAPTERS[kind].validate_python(plain)
        return found
    except ValidationError:
        return None


@dataclass(frozen=True, slots=True)
class TakeFacts:
    """A take as it counts among others.

    Attributes
    ----------
    take : UUID
        Its number.
    at : datetime
        When it began, by its player's clock.
    exercise : int or None
        What it was of.
    key, drill_key : str
        ``rung_key`` and ``drill_key`` of its drill.
    name : str
        Of its drill, as it was played.
    is_whole : bool
        Whether it was played to its end, and not broken off.
    margins : Margins or None
        What it shows of what is limited; None where its reading kept none.
    by_reading : bool or None
        Whether it is clean by the usual limits, as its reading said where it kept no margins.
    said : bool or None
        Its player's word.
    is_off : bool
        Whether its day was an off day by then.
    input : Input
    browser : str
    tempo_bpm : float
    slots : int
        Notes to the beat.
    played_s : float
        From the first note to the last.
    verdict : str
        Code of ``advice/2``.
    place_ms, spread_ms : float or None
        Place with the click, and the spread about it.
    interval_sd_ms, clock_sd_ms, motor_sd_ms : float or None
        The spread of its intervals, and the parts of it that clock and hand have.
    alpha, swing : float or None
        What the click takes back of an error; long to short.
    figures : Figures or None
        Those of its reading that were asked for.
    """

    take: UUID
    at: datetime
    exercise: int | None
    key: str
    drill_key: str
    name: str
    is_whole: bool
    margins: Margins | None
    by_reading: bool | None
    said: bool | None
    is_off: bool
    input: Input
    browser: str
    tempo_bpm: float
    slots: int
    played_s: float
    verdict: str
    place_ms: float | None
    spread_ms: float | None
    interval_sd_ms: float | None = None
    clock_sd_ms: float | None = None
    motor_sd_ms: float | None = None
    alpha: float | None = None
    swing: float | None = None
    figures: Figures | None = None

    @property
    def day(self) -> date:
        """The local day on which it began."""
        return self.at.date()

    @property
    def days(self) -> float:
        """When it began, in days of any beginning."""
        return self.at.timestamp() / SECONDS_A_DAY

    @property
    def end(self) -> datetime:
        """When its last note came, as far as that is known."""
        return self.at + timedelta(seconds=self.played_s)

    @property
    def minutes(self) -> float:
        """How long was played."""
        return round(self.played_s / SECONDS_A_MINUTE, 3)

    def read_clean(self, limits: Limits = LIMITS) -> bool | None:
        """Return whether it is clean by its reading alone; None where that can't say."""
        return is_clean(self.margins, limits) if self.margins else self.by_reading

    def clean(self, limits: Limits = LIMITS) -> bool | None:
        """Return whether it counts as clean; None where it is open or can't be said. Nobody else answers this."""
        return in_the_end(self.read_clean(limits), is_whole=self.is_whole, said=self.said)

    def chance(self, limits: Limits = LIMITS) -> float | None:
        """Return the chance that it is clean; None where nobody measured it, or it was broken off."""
        if self.said is not None:
            return float(self.said)
        return cleanness(self.margins, limits).chance if self.margins and self.is_whole else None

    def easy(self, limits: Limits = LIMITS) -> bool:
        """Return whether it lies far inside the limits."""
        return self.margins is not None and is_easy(self.margins, limits)


@dataclass(frozen=True, slots=True)
class SilenceFacts:
    """A silence of a take as it counts among others.

    Attributes
    ----------
    take : UUID
    number : int
        In its take, from 1.
    at : datetime
        When its take began.
    tempo_bpm : float
    beats : float
        Its length, click to click.
    cycle_beats : int
        Beats of a cycle.
    notes : int
        Caught in it.
    outcome : str
        ``held``, ``early``, ``late``, ``edge`` or ``unreadable``.
    return_ms : float or None
    return_ci95_ms : (float, float) or None
    lean_percent : float or None
    lean_ci95_percent : (float, float) or None
    seen : (int, Seen) or None
        Notes to the beat, and what its take showed of the noise sizes.
    """

    take: UUID
    number: int
    at: datetime
    tempo_bpm: float
    beats: float
    cycle_beats: int
    notes: int
    outcome: str
    return_ms: float | None
    return_ci95_ms: Range | None
    lean_percent: float | None
    lean_ci95_percent: Range | None
    seen: tuple[int, Seen] | None = None

    @property
    def is_held(self) -> bool:
        """Whether it was held, as far as its take can say."""
        return self.outcome == "held"

    @property
    def is_readable(self) -> bool:
        """Whether anything is known of how it came out."""
        return self.outcome != "unreadable"
