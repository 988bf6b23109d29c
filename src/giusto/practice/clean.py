"""Whether a take is clean, by its reading."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.drill import Drill
from giusto.reading import Reading
from giusto.tempo import slot_ms


@dataclass(frozen=True, slots=True)
class Limits:
    """What a take without silences must stay within; ours, adjustable.

    Attributes
    ----------
    spread_percent : float
        Spread about the player's place, of a slot.
    missed_percent : float
        Asked notes not caught.
    """

    spread_percent: float = 4.0
    missed_percent: float = 5.0


LIMITS = Limits()


def is_clean(drill: Drill, reading: Reading, limits: Limits = LIMITS) -> bool | None:
    """Return whether a take is clean, None where its reading can't say.

    Notes
    -----
    All silences held; where a drill has none, spread and missed notes within the limits. A silence that
    can't be read leaves it open.
    """
    outcomes = {silence.outcome for silence in reading.silences}
    if outcomes:
        if outcomes - {"held", "unreadable"}:
            return False
        return None if "unreadable" in outcomes else True
    if reading.heard.sd_ms is None:
        return None
    asked = max(reading.onsets.expected, 1)
    spread = 100 * reading.heard.sd_ms / slot_ms(drill.tempo.bpm, drill.part.grid)
    missed = 100 * reading.onsets.missed / asked
    return spread <= limits.spread_percent and missed <= limits.missed_percent
