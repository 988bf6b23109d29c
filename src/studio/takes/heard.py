"""By what a take was heard, and what its times rest on: columns of a take, typed."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict

from giusto.hearing.delay import FAR_MS, MOVED_MS
from giusto.hearing.inputs import Input
from giusto.hearing.level import Gate
from giusto.hearing.source import Source


class Device(BaseModel):
    """What the browser said of itself; what else it said is kept too."""

    model_config = ConfigDict(extra="allow", frozen=True)

    browser: str = ""
    name: str = ""
    voice: str = ""
    counted: bool = False
    remark: str = ""
    sample_rate_hz: float = 0.0
    zero_server_ms: float | None = None
    zero_half_ms: float | None = None


class PhoneClock(BaseModel):
    """How the sound of a phone lies against the drill that another device played.

    Attributes
    ----------
    rate_hz : int
    zero_s, half_s : float
        The drill's time zero on the phone's audio clock, as the devices' clocks were joined, and how far off it may be.
    """

    model_config = ConfigDict(frozen=True)

    rate_hz: int
    zero_s: float
    half_s: float


class Hearing(BaseModel):
    """By what a take was heard.

    Attributes
    ----------
    by : Input or None
        None where nothing was said: then what the take came from.
    device : str
        Its name; a delay holds for it alone.
    threshold_db, refractory_s : float or None
        What of the sound counts as a note, where that was set.
    keep : bool
        Whether the sound is kept.
    delay_ms, delay_ci95_ms : float, (float, float), or None
        As it was measured before the take.
    round_trip_ms : float or None
        The delay that the take's own sound shows.
    source : Source or None
        What the times of heard notes rest on, once they are heard.
    remarks : tuple of str
        What a reading has to say of how they came.
    unkept : (float, float) or None
        Zero and rate of sound that is to be kept and could not be yet: it still lies in pieces.
    """

    model_config = ConfigDict(extra="ignore", frozen=True)

    by: Input | None = None
    device: str = ""
    threshold_db: float | None = None
    refractory_s: float | None = None
    keep: bool = False
    delay_ms: float | None = None
    delay_ci95_ms: tuple[float, float] | None = None
    round_trip_ms: float | None = None
    source: Source | None = None
    remarks: tuple[str, ...] = ()
    unkept: tuple[float, float] | None = None
    phone: PhoneClock | None = None

    def but(self, **changes: Any) -> Hearing:
        """Return it with some of it changed."""
        return self.model_copy(update=changes)

    @property
    def is_by_sound(self) -> bool:
        """Whether a microphone heard it, or a stand-in for one."""
        return self.by is not None and self.by.is_sound

    @property
    def has_moved(self) -> bool:
        """Whether its own sound shows another delay than was measured before."""
        found, measured = self.round_trip_ms, self.delay_ms
        return found is not None and measured is not None and abs(found - measured) > MOVED_MS

    @property
    def is_far(self) -> bool:
        """Whether the way from loudspeaker to microphone is as long as a wireless one."""
        found = self.delay_ms if self.round_trip_ms is None else self.round_trip_ms
        return self.is_by_sound and found is not None and found > FAR_MS

    @property
    def delay_s(self) -> float:
        """How late the page stamps a note, where that was measured; the delay of a microphone is another matter."""
        return 0.0 if self.is_by_sound else (self.delay_ms or 0.0) / 1000

    @property
    def gate(self) -> Gate:
        """What of the sound counts as a note."""
        usual = Gate()
        threshold_db = usual.threshold_db if self.threshold_db is None else self.threshold_db
        return Gate(threshold_db, usual.refractory_s if self.refractory_s is None else self.refractory_s)
