"""Reach as a player's own clock and lean let expect it: a random walk against what counts as held."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, ndtri

from giusto.arrays import FloatArray
from giusto.figures.silence import HELD_SHARE
from giusto.practice.reach.estimate import HELD_OFTEN, LONGEST, SHORTEST
from giusto.ranges import Z95, Range, sd_of
from giusto.tempo import slot_ms

POINTS = 13  # ours: equally likely values that stand for what is likely of clock and of lean
LENGTHS = 2.0 ** np.arange(SHORTEST, LONGEST, 0.03)  # beats


@dataclass(frozen=True, slots=True)
class Predicted:
    """The length that should be held three times in four.

    Attributes
    ----------
    beats : float
    ci95_beats : (float, float)
    """

    beats: float
    ci95_beats: Range

    def agrees(self, measured: Range) -> bool:
        """Return whether a measured range leaves room for it: whether the two overlap."""
        return measured[0] <= self.ci95_beats[1] and self.ci95_beats[0] <= measured[1]


def predicted_reach(
    clock_ms: float,
    clock_ci95_ms: Range,
    lean_percent: float,
    lean_ci95_percent: Range,
    *,
    bpm: float,
    slots: int,
    differ_percent: float = 0.0,
    range_ms: float = 0.0,
) -> Predicted:
    """Return the reach that a clock and a lean let expect.

    Parameters
    ----------
    clock_ms, clock_ci95_ms
        Standard deviation of the clock's interval, from slot to slot.
    lean_percent, lean_ci95_percent
        The tempo that is kept alone, less the asked one; faster is positive.
    bpm : float
    slots : int
        Slots a beat.
    differ_percent : float
        How far the leans of single silences differ in truth.
    range_ms : float
        Half the range that a return is measured with: what counts as held must hold all of it.

    Returns
    -------
    Predicted

    Notes
    -----
    Over n beats the return is normal with mean ``−lean · n`` and variance ``n · slots · clock² + (differ · n)²``;
    it is held where it stays within 5 % of a beat on either side, the measurement's own range taken off. Clock
    and lean are integrated over as log-normal and normal.

    References
    ----------
    Wing & Kristofferson 1973, Percept Psychophys 14:5: the clock's intervals are independent, so that its error
    grows as a random walk (from memory).
    """
    beat_ms = slot_ms(bpm, 1)
    limit_ms = max(HELD_SHARE * beat_ms - range_ms, 0.02 * HELD_SHARE * beat_ms)
    quantiles = ndtri((np.arange(POINTS) + 0.5) / POINTS)
    clocks = clock_ms * np.exp(quantiles * _log_sd(clock_ms, clock_ci95_ms))
    leans = lean_percent + quantiles * sd_of(lean_ci95_percent)
    found = np.sort(
        [_reach(float(c), float(lean), limit_ms, beat_ms, slots, differ_percent) for c in clocks for lean in leans]
    )
    low, middle, high = (float(found[round(share * (found.size - 1))]) for share in (0.025, 0.5, 0.975))
    return Predicted(round(middle, 3), (round(low, 3), round(high, 3)))


def _reach(
    clock_ms: float, lean_percent: float, limit_ms: float, beat_ms: float, slots: int, differ_percent: float
) -> float:
    mean: FloatArray = lean_percent / 100 * beat_ms * LENGTHS
    sd = np.sqrt(LENGTHS * slots * clock_ms**2 + (differ_percent / 100 * beat_ms * LENGTHS) ** 2)
    held = ndtr((limit_ms - mean) / sd) - ndtr((-limit_ms - mean) / sd)
    below = np.flatnonzero(held < HELD_OFTEN)
    return float(LENGTHS[max(int(below[0]) - 1, 0)] if below.size else LENGTHS[-1])


def _log_sd(size: float, ends: Range) -> float:
    low = max(ends[0], 1e-6 * size)
    return float(np.log(max(ends[1], low) / low)) / (2 * Z95)
