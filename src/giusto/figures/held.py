"""What a take says of whether each of its silences was held: a chance, and one of three words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from giusto.figures.silence import WIDER, Outcome, SilenceReading, beat_ms
from giusto.ranges import Z95, Range
from giusto.returns.drift import Returns, drift_of
from giusto.returns.held import SURE, SURELY_NOT, held_chances
from giusto.tempo import SECONDS_PER_MINUTE

DIGITS = 4  # of a chance, as it is written


def returns_of_take(silences: Sequence[SilenceReading]) -> Returns:
    """Return the returns of a take's silences that can be read, in beats."""
    rows = np.array(
        [
            (one.beats, *in_beats(one.return_ms, one.return_ci95_ms, bpm_of(one)))
            for one in silences
            if one.return_ms is not None and one.return_ci95_ms
        ]
    ).reshape(-1, 3)
    return Returns(np.zeros(len(rows), dtype=np.int64), rows[:, 0], rows[:, 1], rows[:, 2], np.ones(1))


def called(silences: Sequence[SilenceReading]) -> list[SilenceReading]:
    """Return silences with the chance that each was held, and its word by that; by this take alone."""
    returns = returns_of_take(silences)
    chances = iter(held_chances(drift_of(returns), returns).each.tolist() if returns.beats.size else [])
    return [
        replace(one, outcome=outcome(chance := next(chances), one.return_ms), held_chance=round(chance, DIGITS))
        if one.return_ms is not None and one.return_ci95_ms
        else one
        for one in silences
    ]


def outcome(chance: float, return_ms: float) -> Outcome:
    """Return the word for a chance: held from nine in ten on, early or late up to one in ten.

    Examples
    --------
    >>> outcome(0.93, 12.0), outcome(0.05, 60.0), outcome(0.05, -60.0), outcome(0.6, 20.0)
    ('held', 'late', 'early', 'edge')
    """
    if chance >= SURE:
        return "held"
    if chance > SURELY_NOT:
        return "edge"
    return "late" if return_ms > 0 else "early"


def in_beats(return_ms: float, ends_ms: Range, bpm: float) -> tuple[float, float]:
    """Return a return and its standard error in beats."""
    return return_ms / beat_ms(bpm), (ends_ms[1] - ends_ms[0]) / (2 * WIDER * Z95) / beat_ms(bpm)


def bpm_of(silence: SilenceReading) -> float:
    """Return the tempo that was asked in a silence."""
    return SECONDS_PER_MINUTE * silence.beats / (silence.end_s - silence.start_s)
