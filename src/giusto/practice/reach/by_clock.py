"""Reach as a player's own clock and lean let expect it, where no silence was played at a tempo: the same model."""

from __future__ import annotations

from dataclasses import dataclass
from math import log, sqrt

from giusto.ranges import Z95, Range, sd_of
from giusto.returns.drift import START, drift_as
from giusto.tempo import slot_ms

APART_LOG_SD = 0.3  # ours: how well some takes tell how far takes lean apart


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
    start: float = START,
    start_log_sd: float = 0.0,
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
        How far the leans of takes differ in truth.
    start, start_log_sd : float
        How the click leaves the clock, in beats, and how well that is known (``giusto.returns.drift``: σ0).

    Returns
    -------
    Predicted

    Notes
    -----
    ``giusto.returns.drift``: the walk of a beat is the clock's of so many slots, and lean and walk as they are known.

    References
    ----------
    Wing & Kristofferson 1973, Percept Psychophys 14:5: the clock's intervals are independent, so that its error
    grows as a random walk (from memory).
    """
    low_ms = max(clock_ci95_ms[0], 1e-6 * clock_ms)
    drift = drift_as(
        walk=clock_ms * sqrt(slots) / slot_ms(bpm, 1),
        walk_log_sd=log(max(clock_ci95_ms[1], low_ms) / low_ms) / (2 * Z95),
        lean=-lean_percent / 100,
        lean_sd=sd_of(lean_ci95_percent) / 100,
        apart=differ_percent / 100,
        apart_log_sd=APART_LOG_SD,
        start=start,
        start_log_sd=start_log_sd,
    )
    low, middle, high = (round(length, 3) for length in drift.reach_quantiles((0.025, 0.5, 0.975)))
    return Predicted(middle, (low, high))
