"""What the browser sends while a take is played, checked at the door."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Base64Bytes, BaseModel, ConfigDict, Field, ValidationError, model_validator

from giusto.drill.faults import fault_of
from giusto.errors import GiustoError
from giusto.hearing.allowed import HIGHEST_HZ, LOWEST_HZ
from giusto.hearing.inputs import HEARING, TAKEN
from giusto.hearing.level import HIGHEST_DB, LOWEST_DB
from studio.takes.flac import check_flac

Milliseconds = Annotated[float, Field(ge=0, le=1e12)]
AudioSeconds = Annotated[float, Field(ge=0, le=1e9)]
Zero = Annotated[float, Field(ge=-60, le=1e9)]  # strokes that count in may lie before the sound of their page began
Text = Annotated[str, Field(max_length=400, pattern=r"^[^\x00-\x1f\x7f]*$")]
Figure = Annotated[float, Field(ge=-1000, le=1000)]


MOST_SAID = 20  # ours: fields that a browser says of itself beyond those known


class MessageError(GiustoError):
    """A message that breaks a rule."""


class _Message(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class SimulatedBy(_Message):
    """The simulated player behind a take."""

    seed: Annotated[int, Field(ge=0, le=2**53 - 1)]
    player: Annotated[dict[str, Figure], Field(max_length=40)]


class HearingMessage(_Message):
    """By what a take is heard, and what of its sound counts as a note."""

    by: Literal[HEARING]  # type: ignore[valid-type]
    device: Annotated[Text, Field(max_length=200)] = ""
    threshold_db: Annotated[float, Field(ge=LOWEST_DB, le=HIGHEST_DB)] | None = None
    refractory_s: Annotated[float, Field(ge=0.02, le=0.2)] | None = None
    keep: bool = False


class DeviceMessage(_Message):
    """What the browser says of itself: what is known by name, and some more."""

    model_config = ConfigDict(extra="allow", frozen=True, allow_inf_nan=False)
    __pydantic_extra__: dict[Text, Text | float | bool | None]

    browser: Text = ""
    name: Text = ""
    voice: Text = ""
    counted: bool = False
    remark: Text = ""
    sample_rate_hz: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    zero_server_ms: Annotated[float, Field(ge=0, le=1e14)] | None = None  # where a phone hears: time zero by the server
    zero_half_ms: Annotated[float, Field(ge=0, le=60_000)] | None = None

    @model_validator(mode="after")
    def _few(self) -> DeviceMessage:
        if len(self.model_extra or {}) > MOST_SAID:
            raise ValueError(f"device has more than {MOST_SAID} fields of its own, allowed are so many")
        return self


class Begin(_Message):
    """A take begins: what is played, by what, and where its time zero lies on the audio clock."""

    drill: dict[str, Any]
    origin: Annotated[Text, Field(max_length=80)] = ""
    input: Literal[TAKEN]  # type: ignore[valid-type]
    simulated: SimulatedBy | None = None
    hearing: HearingMessage | None = None
    device: DeviceMessage = DeviceMessage()
    zero_audio_s: Zero
    started_at: datetime

    @model_validator(mode="after")
    def _marked(self) -> Begin:
        if (self.input == "simulated") != (self.simulated is not None):
            raise ValueError("simulated must be given for input simulated, and only there")
        return self


class Note(_Message):
    """One note as it was captured: page time, what made it, and how strong it was where that is known."""

    at_ms: Milliseconds
    source: Annotated[Text, Field(max_length=12)]
    strength: Annotated[float, Field(ge=0, le=1)] | None = None


Sound = Annotated[Base64Bytes, Field(min_length=2, max_length=200_000)]


class SoundMessage(_Message):
    """A piece of sound: its first frame on the audio clock; samples of 16 bits, or FLAC of them, base64."""

    frame: Annotated[int, Field(ge=0, le=2**53 - 1)]
    samples: Sound | None = None
    flac: Sound | None = None

    @model_validator(mode="after")
    def _whole(self) -> SoundMessage:
        if (self.samples is None) == (self.flac is None):
            raise ValueError("sound has samples and flac, or neither: allowed is one of them")
        if self.samples and len(self.samples) % 2:
            raise ValueError("sound.samples has half a sample at its end, allowed are whole ones of 16 bits")
        if self.flac:
            check_flac(self.flac)
        return self

    @property
    def content(self) -> bytes:
        """The sound as it came, packed or not."""
        return self.flac or self.samples or b""


class Notes(_Message):
    """A numbered handful of notes, clock pairs and sound."""

    notes: Annotated[list[Note], Field(max_length=5000)]
    pairs: Annotated[list[tuple[AudioSeconds, Milliseconds]], Field(max_length=5000)]
    sound: Annotated[list[SoundMessage], Field(max_length=200)] = []

    @model_validator(mode="before")
    @classmethod
    def _from_arrays(cls, plain: Any) -> Any:
        """Take what a page of an earlier version kept in its browser: stamps and sources side by side."""
        if not isinstance(plain, dict) or "stamps_ms" not in plain:
            return plain
        stamps, sources = plain.get("stamps_ms"), plain.get("sources")
        if not isinstance(stamps, list) or not isinstance(sources, list) or len(stamps) != len(sources):
            return plain
        notes = [{"at_ms": at_ms, "source": source} for at_ms, source in zip(stamps, sources, strict=True)]
        return {"notes": notes, "pairs": plain.get("pairs")}


class FromPhone(_Message):
    """Sound that a phone heard of a take that another device plays, and how its clock lies against the server's."""

    rate_hz: Annotated[int, Field(ge=LOWEST_HZ, le=HIGHEST_HZ)]
    audio_s: AudioSeconds
    server_ms: Annotated[float, Field(ge=0, le=1e14)]
    half_ms: Annotated[float, Field(ge=0, le=60_000)]
    sound: Annotated[list[SoundMessage], Field(max_length=200)]
    over: bool = False


class KeptNote(_Message):
    """One note as it lies in a batch: by keys and touch in page time, heard ones in their sound's; played on what."""

    at_ms: Annotated[float, Field(ge=-1e12, le=1e12)]
    source: Annotated[Text, Field(max_length=12)]
    strength: Annotated[float, Field(ge=0, le=1)] | None = None
    on: Annotated[Text, Field(max_length=12)] | None = None


class KeptBatch(_Message):
    """A batch as an archive has it."""

    number: Annotated[int, Field(ge=0, le=10_000_000)]
    notes: Annotated[list[KeptNote], Field(max_length=5000)]
    pairs: Annotated[list[tuple[AudioSeconds, Milliseconds]], Field(max_length=5000)]


class End(_Message):
    """A take is over, and made this many batches."""

    how: Literal["complete", "stopped", "broken"]
    batches: Annotated[int, Field(ge=0, le=1_000_000)]


M = TypeVar("M", bound=_Message)


def read_message(kind: type[M], body: bytes) -> M:
    """Return a message of one kind, or raise with all that is wrong in it.

    Raises
    ------
    MessageError
    """
    try:
        plain = json.loads(body)
    except (ValueError, RecursionError):
        raise MessageError("the body must be JSON", code="not_json") from None
    return checked(kind, plain)


def checked(kind: type[M], plain: Any) -> M:
    """Return plain values as a message of one kind, or raise with all that is wrong in them.

    Raises
    ------
    MessageError
    """
    try:
        return kind.model_validate(plain)
    except ValidationError as error:
        text = "; ".join(_said(detail) for detail in error.errors()[:5])
        raise MessageError(text, code="message") from None
    except RecursionError:
        raise MessageError("the body is nested too deeply", code="not_json") from None


def _said(detail: Any) -> str:
    """Return one fault; a rule between fields says itself what is wrong."""
    if detail["type"] == "value_error":
        return str(detail["ctx"]["error"])
    return str(fault_of(detail))
