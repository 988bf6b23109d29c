"""Where each slot of the beat falls against the player's own pulse: rhythm, apart from time."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import sqrt

import numpy as np

from giusto.arrays import FloatArray, IntArray
from giusto.missing import Missing
from giusto.ranges import Z95, Range, interval

FEWEST = 4  # ours: notes of a slot
STRAIGHT = 0.01  # of a beat: a pair asked this near to equal may be swung


@dataclass(frozen=True, slots=True)
class SlotLean:
    """One slot of the beat, as ``reading/1`` writes it; late is positive."""

    position_in_beat: str
    n: int
    mean_ms: float
    ci95_ms: Range


@dataclass(frozen=True, slots=True)
class Length:
    """How long the player holds the way from one slot to the next, in percent of what is asked.

    Under 100 it is crushed, over 100 stretched. The last slot leads to the next beat, ``"1"``.
    """

    start: str
    end: str
    percent: float
    ci95_percent: Range


@dataclass(frozen=True, slots=True)
class Swing:
    """First part of a pair over its second: 1 is straight, 2 a triplet's."""

    ratio: float
    ci95: Range
    n: int


@dataclass(frozen=True, slots=True)
class Rhythm:
    """The slots of the beat, the lengths between them, and the swing where pairs are played."""

    slots: list[SlotLean]
    lengths: list[Length]
    swing: Swing | None


def rhythm(
    slot_ticks: IntArray, slot_ms: FloatArray, slot_var: FloatArray, *, ticks_per_beat: int, beat_ms: float
) -> Rhythm | Missing:
    """Return the rhythm within the beat, or why there is none.

    Parameters
    ----------
    slot_ticks : array of int, shape (caught,)
        Each caught note's place in its beat.
    slot_ms, slot_var : array of float, shape (slots,)
        The smoother's lean of each slot that was caught, in order, the first being what the others
        lean against.
    ticks_per_beat : int
    beat_ms : float

    Returns
    -------
    Rhythm or Missing

    Notes
    -----
    The smoother estimates pulse and slots together, so a rhythm that is played the same in each beat
    is not smeared into tempo: fitting one line through all notes would tilt it. Ranges of lengths
    take the leans of two slots as independent, which makes them a little wide.
    """
    used, n = np.unique(slot_ticks, return_counts=True)
    if not used.size or used[0] != 0 or n[0] < FEWEST:
        return Missing("rhythm", "few-on-the-beat")
    kept = [k for k in range(used.size) if n[k] >= FEWEST]
    if len(kept) < 2:
        return Missing("rhythm", "beats-only")
    names = [str(Fraction(int(used[k]), ticks_per_beat)) for k in kept]
    leans, variances = [float(slot_ms[k]) for k in kept], [float(slot_var[k]) for k in kept]
    slots = [
        SlotLean(name, int(n[k]), round(lean, 3), interval(lean, variance))
        for name, k, lean, variance in zip(names[1:], kept[1:], leans[1:], variances[1:], strict=True)
    ]
    at_ms = [float(used[k]) / ticks_per_beat * beat_ms for k in kept]
    lengths = _lengths([*names, "1"], [*at_ms, beat_ms], [*leans, 0.0], [*variances, 0.0])
    swing = _swing(at_ms[1], leans[1], sqrt(variances[1]), beat_ms, int(n[kept[1]])) if len(kept) == 2 else None
    return Rhythm(slots, lengths, swing)


def _lengths(names: list[str], at_ms: list[float], leans: list[float], variances: list[float]) -> list[Length]:
    found = []
    for k in range(len(names) - 1):
        asked_ms = at_ms[k + 1] - at_ms[k]
        percent = 100 * (1 + (leans[k + 1] - leans[k]) / asked_ms)
        variance = (100 / asked_ms) ** 2 * (variances[k] + variances[k + 1])
        found.append(Length(names[k], names[k + 1], round(percent, 3), interval(percent, variance)))
    return found


def _swing(at_ms: float, lean_ms: float, sd_ms: float, beat_ms: float, n: int) -> Swing | None:
    """Return the ratio of a pair that is asked to split the beat in halves; the ends of its range exactly."""
    if abs(at_ms / beat_ms - 0.5) > STRAIGHT:  # a dotted figure that is asked for is no swing
        return None

    def ratio(first_ms: float) -> float:
        first_ms = min(max(first_ms, 0.05 * beat_ms), 0.95 * beat_ms)
        return round(first_ms / (beat_ms - first_ms), 3)

    first_ms = at_ms + lean_ms
    return Swing(ratio(first_ms), (ratio(first_ms - Z95 * sd_ms), ratio(first_ms + Z95 * sd_ms)), n)
