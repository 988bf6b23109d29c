"""A take in the form the timekeeper works on: steps of the clock, and the notes that show it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.timeline import Timeline, returns

OPEN_BEATS = 0.25  # ours: where the clock may start, and restart after a return
APART_BEATS = 10.0  # ours: between stretches of a take, which says nothing


@dataclass(frozen=True, slots=True)
class Sizes:
    """The sizes of a player's noise: clock as a share of the interval, hand in ms, correction."""

    clock: float
    hand_ms: float
    alpha: float


@dataclass(frozen=True, slots=True)
class Chain:
    """Steps and notes in the smoother's form.

    Attributes
    ----------
    error_ms : array of float, shape (n,)
        Played minus asked at each moment, NaN where no note was caught.
    interval_ms : array of float, shape (n − 1,)
    clicks, silence : array of int, shape (n − 1,)
        As in ``Timeline``.
    opened_ms : array of float, shape (n − 1,)
        How far a step is left open, beyond the clock's noise: the first after a return into the click
        by a quarter of a beat, more where the notes before and after it lie further apart; others by 0.
    on_click : array of bool, shape (n,)
        Moments at which a click sounds: a note there shows the player an error, which the step corrects.
    slot : array of int, shape (n,)
        0 for the first slot that was caught, mostly the beat, then one number for each other.
    ends : array of int
        Moments at which silences start or end, unique and ascending.
    beat_ms : float
    """

    error_ms: FloatArray
    interval_ms: FloatArray
    clicks: IntArray
    silence: IntArray
    opened_ms: FloatArray
    on_click: BoolArray
    slot: IntArray
    ends: IntArray
    beat_ms: float

    @property
    def caught(self) -> BoolArray:
        """Which moments have a note, shape (n,)."""
        return np.isfinite(self.error_ms)

    def between(self, first: int, last: int) -> Chain:
        """Return the moments from ``first`` to ``last``, both included."""
        steps, ends = slice(first, last), self.ends
        return replace(
            self,
            error_ms=self.error_ms[first : last + 1],
            interval_ms=self.interval_ms[steps],
            clicks=self.clicks[steps],
            silence=self.silence[steps],
            opened_ms=self.opened_ms[steps],
            on_click=self.on_click[first : last + 1],
            slot=self.slot[first : last + 1],
            ends=ends[(ends >= first) & (ends <= last)] - first,
        )


def joined(parts: list[Chain]) -> Chain:
    """Return stretches of one take as one chain, each left open at its start."""
    if len(parts) == 1:
        return parts[0]
    first = parts[0]
    starts = np.cumsum([0, *(part.error_ms.size for part in parts)])

    def steps(name: str, between: float) -> Any:
        pieces = [piece for part in parts for piece in (getattr(part, name), np.array([between]))]
        return np.concatenate(pieces[:-1]).astype(getattr(first, name).dtype)

    return Chain(
        error_ms=np.concatenate([part.error_ms for part in parts]),
        interval_ms=steps("interval_ms", first.beat_ms),
        clicks=steps("clicks", 0),
        silence=steps("silence", -1),
        opened_ms=steps("opened_ms", APART_BEATS * first.beat_ms),
        on_click=np.concatenate([part.on_click for part in parts]),
        slot=np.concatenate([part.slot for part in parts]),
        ends=np.concatenate([part.ends + start for part, start in zip(parts, starts[:-1], strict=True)]),
        beat_ms=first.beat_ms,
    )


def chain(line: Timeline, error_s: FloatArray, *, slot: IntArray, beat_s: float) -> Chain:
    """Bring a take into the smoother's form.

    Parameters
    ----------
    line : Timeline
    error_s : array of float, shape (notes,)
        Played minus asked for each asked note, NaN where it was missed.
    slot : array of int, shape (notes,)
        Slot within the beat of each asked note, 0 on the beat.
    beat_s : float

    Returns
    -------
    Chain
    """
    error_ms = np.full(len(line), np.nan)
    error_ms[line.of_note] = error_s * 1000
    slots = np.zeros(len(line), dtype=np.int64)
    slots[line.of_note] = slot
    used = np.unique(slots[np.isfinite(error_ms)])  # the first of them is what the others lean against
    opened_ms = np.zeros(line.interval_s.size)
    for k in returns(line).tolist():
        if k < opened_ms.size:
            opened_ms[k] = max(OPEN_BEATS * beat_s * 1000, _jump_ms(error_ms, k))
    return Chain(
        error_ms=error_ms,
        interval_ms=line.interval_s * 1000,
        clicks=line.clicks,
        silence=line.silence,
        opened_ms=opened_ms,
        on_click=line.on_click,
        slot=np.where(np.isin(slots, used), np.searchsorted(used, slots), 0),
        ends=np.union1d(line.start, line.end),
        beat_ms=beat_s * 1000,
    )


def _jump_ms(error_ms: FloatArray, moment: int) -> float:
    """Return how far the next note after a moment lies from the last one up to it."""
    before, after = (np.flatnonzero(np.isfinite(part)) for part in (error_ms[: moment + 1], error_ms[moment + 1 :]))
    if not before.size or not after.size:
        return 0.0
    return abs(float(error_ms[moment + 1 + after[0]] - error_ms[before[-1]]))
