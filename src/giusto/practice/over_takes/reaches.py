"""Reach at the tempos that a player has silences at: whoever tells how long a silence is held tells this."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from giusto.arrays import FloatArray
from giusto.figures.held import in_beats
from giusto.practice.habit import Habit, habit
from giusto.practice.over_takes.clock import clock_of, walk_of
from giusto.practice.over_takes.facts import SilenceFacts
from giusto.practice.reach import ChanceAt, Reach, reach
from giusto.practice.reach.by_clock import Predicted, predicted_reach
from giusto.practice.reach.by_drift import chances_at
from giusto.returns.drift import START_SPREAD, Returns, fading, start_of
from giusto.tempo import slot_ms
from giusto.timekeeper.prior import Seen

NEAR = 0.12  # ours: of the tempo; three notches of the traditional scale
MOST_TEMPI = 8  # ours


@dataclass(frozen=True, slots=True)
class ReachAt:
    """How long a silence is held near a tempo.

    Attributes
    ----------
    bpm : float
    reach : Reach
    tried : list of ChanceAt
        The lengths that were tried, ascending, and the chance that each is held.
    returns : Returns
        What it rests on.
    """

    bpm: float
    reach: Reach
    tried: list[ChanceAt]
    returns: Returns


def tempi(silences: Iterable[SilenceFacts]) -> list[float]:
    """Return the tempos of silences that can be read, the latest first, none of them near one before it."""
    found: list[float] = []
    for bpm in dict.fromkeys(one.tempo_bpm for one in sorted(silences, key=lambda one: one.at, reverse=True)):
        if all(not is_near(bpm, other) for other in found):
            found.append(bpm)
    return found


def is_near(bpm: float, other: float) -> bool:
    """Return whether a tempo is told of with another one; between tempos nothing is."""
    return other * (1 - NEAR) <= bpm <= other * (1 + NEAR)


def reach_at(silences: Iterable[SilenceFacts], bpm: float, now: datetime) -> ReachAt:
    """Return how long a silence is held near a tempo, by silences of any tempo."""
    returns = returns_of([one for one in silences if is_near(one.tempo_bpm, bpm)], now)
    found = reach(returns)
    return ReachAt(bpm, found, chances_at(found.drift, np.unique(returns.beats)), returns)


def reaches(silences: Sequence[SilenceFacts], now: datetime) -> list[ReachAt]:
    """Return how long a silence is held at each tempo, the latest tempo first."""
    return [reach_at(silences, bpm, now) for bpm in tempi(silences)[:MOST_TEMPI]]


def returns_of(silences: Sequence[SilenceFacts], now: datetime) -> Returns:
    """Return the returns of silences that can be read, in beats, as they count at a moment: they age by whole days.

    With them what the notes of their takes say of the clock.
    """
    told = [one for one in silences if one.return_ms is not None and one.return_ci95_ms is not None]
    takes = {take: index for index, take in enumerate(dict.fromkeys(one.take for one in told))}
    at = {one.take: one.at for one in told}
    rows = np.array([_row(one) for one in told]).reshape(-1, 3)
    return Returns(
        take=np.array([takes[one.take] for one in told], dtype=np.int64),
        beats=rows[:, 0],
        return_beats=rows[:, 1],
        sd_beats=rows[:, 2],
        weight=fading([(now - at[take]).days for take in takes]),
        walk=walk_of(seen_of(silences)),
    )


def seen_of(silences: Iterable[SilenceFacts]) -> list[tuple[int, Seen]]:
    """Return what the takes of some silences showed of the noise sizes, each with its notes to the beat."""
    return [one for one in {silence.take: silence.seen for silence in silences}.values() if one]


def expected_at(
    bpm: float, returns: Returns, leans: Sequence[tuple[FloatArray, FloatArray]], seen: Sequence[tuple[int, Seen]]
) -> Predicted | None:
    """Return the reach at a tempo that clock and lean let expect; None where too few takes tell of them.

    Parameters
    ----------
    bpm : float
    returns : Returns
        Of the same takes: how well they are read says how the click leaves the clock.
    leans : sequence of (array, array)
        For each take: the leans of its silences in percent, and their variances.
    seen : sequence of (int, Seen)
        Notes to the beat, and what a take showed of the noise sizes.
    """
    lean, clock = habit(leans), clock_of(seen)
    if not isinstance(lean, Habit) or clock is None:
        return None
    one_slot_ms = slot_ms(bpm, clock.slots)
    low, high = clock.ci95
    return predicted_reach(
        clock.share * one_slot_ms,
        (low * one_slot_ms, high * one_slot_ms),
        lean.tempo_percent,
        lean.ci95_percent,
        bpm=bpm,
        slots=clock.slots,
        differ_percent=lean.differ_percent,
        start=start_of(returns.sd_beats),
        start_log_sd=START_SPREAD,
    )


def _row(one: SilenceFacts) -> tuple[float, float, float]:
    return one.beats, *in_beats(one.return_ms or 0.0, one.return_ci95_ms or (0.0, 0.0), one.tempo_bpm)
