"""What the times of heard notes rest on, as a reading says it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from giusto.ranges import Range

Kind = Literal["sound", "midi", "notes"]
RestsOn = Literal["bleed", "count", "notes", "clock", "file"]


@dataclass(frozen=True, slots=True)
class Source:
    """What the times of a recording made elsewhere rest on; ``docs/formats.md`` defines each field."""

    kind: Kind
    zero_s: float
    zero_ci95_ms: Range
    clock_ppm: float | None
    clock_ci95_ppm: Range | None
    by: RestsOn
    notes: tuple[str, ...] = ()
