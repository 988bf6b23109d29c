"""Where each slot of the beat falls against the player's own pulse: rhythm, apart from time."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import sqrt

import numpy as np

from giusto.arrays import FloatArray, IntArray
from giusto.missing import Missing
from giusto.ranges import Z95, Range, interval

FEWEST_OF_A_SLOT = 4  # ours: notes of a slot
STRAIGHT = 0.01  # of a beat: a pair written this near to equal may be swung
HALF = Fraction(1, 2)


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
    slot_ticks: IntArray,
    slot_ms: FloatArray,
    slot_var: FloatArray,
    *,
    ticks_per_beat: int,
    beat_ms: float,
    swung_half: Fraction = HALF,
) -> Rhythm | Missing:
    """Return the rhythm within the beat, or why there is none.

    Parameters
    ----------
    slot_ticks : array of int, shape (caught,)
        Each caught note's place in its beat, as it is written.
    slot_ms, slot_var : array of float, shape (slots,)
        The smoother's lean of each slot that was caught, in order, the first being what the others
        lean against.
    ticks_per_beat : int
    beat_ms : float
    swung_half : Fraction
        Where the second half of a beat is asked: what lengths and swing are measured against.

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
    if not used.size or used[0] != 0 or n[0] < FEWEST_OF_A_SLOT:
        return Missing("rhythm", "few-on-the-beat")
    kept = [k for k in range(used.size) if n[k] >= FEWEST_OF_A_SLOT]
    if len(kept) < 2:
        return Missing("rhythm", "beats-only")
    names = [str(Fraction(int(used[k]), ticks_per_beat)) for k in kept]
    leans, variances = [float(slot_ms[k]) for k in kept], [float(slot_var[k]) for k in kept]
    slots = [
        SlotLean(name, int(n[k]), round(lean, 3), interval(lean, variance))
        for name, k, lean, variance in zip(names[1:], kept[1:], leans[1:], variances[1:], strict=True)
    ]
    places = [Fraction(int(used[k]), ticks_per_beat) for k in kept]
    at_ms = [float(swung_half if place == HALF else place) * beat_ms for place in places]
    lengths = _lengths([*names, "1"], [*at_ms, beat_ms], [*leans, 0.0], [*variances, 0.0])
    is_pair = len(kept) == 2 and abs(float(places[1] - HALF)) <= STRAIGHT  # a dotted figure that is asked is no swing
    swing = _swing(at_ms[1] + leans[1], sqrt(variances[1]), beat_ms, int(n[kept[1]])) if is_pair else None
    return Rhythm(slots, lengths, swing)


def _lengths(names: list[str], at_ms: list[float], leans: list[float], variances: list[float]) -> list[Length]:
    found = []
    for k in range(len(names) - 1):
        asked_ms = at_ms[k + 1] - at_ms[k]
        percent = 100 * (1 + (leans[k + 1] - leans[k]) / asked_ms)
        variance = (100 / asked_ms) ** 2 * (variances[k] + variances[k + 1])
        found.append(Length(names[k], names[k + 1], round(percent, 3), interval(percent, variance)))
    return found


def _swing(first_ms: float, sd_ms: float, beat_ms: float, n: int) -> Swing:
    """Return the ratio of a pair that is asked to split the beat in two halves; the ends of its range exactly."""

    def ratio(first: float) -> float:
        first = min(max(first, 0.05 * beat_ms), 0.95 * beat_ms)
        return round(first / (beat_ms - first), 3)

    return Swing(ratio(first_ms), (ratio(first_ms - Z95 * sd_ms), ratio(first_ms + Z95 * sd_ms)), n)
