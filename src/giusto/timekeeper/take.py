"""A take in the form the timekeeper works on: steps of the clock, and the notes that show it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.schedule.timeline import Timeline, returns

OPEN_BEATS = 0.25  # ours: where the clock may start, and restart after a return
APART_BEATS = 10.0  # ours: between stretches of a take, which says nothing


@dataclass(frozen=True, slots=True)
class Sizes:
    """The sizes of a player's noise: clock as a share of the interval, hand in ms, correction."""

    clock: float
    hand_ms: float
    alpha: float


@dataclass(frozen=True)
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
    in_beat : array of int, shape (n,)
        Where in its beat each moment lies, in any unit, 0 on the beat.
    ends : array of int
        Moments at which silences start or end, unique and ascending.
    beat_ms : float
    copies : int
        How often the take is repeated, one after the other and apart: for several sizes at once (``times``).
    """

    error_ms: FloatArray
    interval_ms: FloatArray
    clicks: IntArray
    silence: IntArray
    opened_ms: FloatArray
    on_click: BoolArray
    in_beat: IntArray
    ends: IntArray
    beat_ms: float
    copies: int = 1

    @cached_property
    def slot(self) -> IntArray:
        """Slots of the beat that were caught, counted 0, 1, 2, … from the first, mostly the beat, shape (n,).

        A slot without a note has no number of its own: it would be an effect without data.
        """
        used = np.unique(self.in_beat[self.caught])
        return np.where(np.isin(self.in_beat, used), np.searchsorted(used, self.in_beat), 0)

    @cached_property
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
            in_beat=self.in_beat[first : last + 1],
            ends=ends[(ends >= first) & (ends <= last)] - first,
        )

    def times(self, copies: int) -> Chain:
        """Return the take so often, end to end; the steps from one to the next are no steps, and take no time."""
        n = self.error_ms.size
        return Chain(
            error_ms=np.tile(self.error_ms, copies),
            interval_ms=_steps(self.interval_ms, copies),
            clicks=_steps(self.clicks, copies),
            silence=_steps(self.silence, copies),
            opened_ms=_steps(self.opened_ms, copies),
            on_click=np.tile(self.on_click, copies),
            in_beat=np.tile(self.in_beat, copies),
            ends=(n * np.arange(copies)[:, None] + self.ends).ravel(),
            beat_ms=self.beat_ms,
            copies=copies,
        )

    @cached_property
    def apart(self) -> BoolArray:
        """Steps from one copy to the next, shape (n − 1,)."""
        n = self.error_ms.size // self.copies
        apart: BoolArray = np.arange(1, self.error_ms.size) % n == 0
        return apart

    @cached_property
    def leaning(self) -> BoolArray:
        """Steps between two ends of one copy, shape (n − 1,): before its first and after its last nothing leans."""
        piece = np.searchsorted(self.ends, np.arange(self.interval_ms.size), side="right")
        leaning: BoolArray = (piece > 0) & (piece < self.ends.size) & ~np.isin(piece, piece[self.apart])
        return leaning

    def only(self, which: BoolArray) -> Chain:
        """Return the take with the notes at other moments left out, as if they had not been caught."""
        return replace(self, error_ms=np.where(which, self.error_ms, np.nan))


def _steps(one: Any, copies: int) -> Any:
    """Return the steps of copies, with one of 0 between each and the next."""
    return np.tile(np.append(one, np.zeros(1, dtype=one.dtype)), copies)[:-1]


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
        in_beat=np.concatenate([part.in_beat for part in parts]),
        ends=np.concatenate([part.ends + start for part, start in zip(parts, starts[:-1], strict=True)]),
        beat_ms=first.beat_ms,
    )


def chain(line: Timeline, error_s: FloatArray, *, note_in_beat: IntArray, beat_s: float) -> Chain:
    """Bring a take into the smoother's form.

    Parameters
    ----------
    line : Timeline
    error_s : array of float, shape (notes,)
        Played minus asked for each asked note, NaN where it was missed.
    note_in_beat : array of int, shape (notes,)
        Where in its beat each note is asked, in any unit, 0 on the beat.
    beat_s : float

    Returns
    -------
    Chain
    """
    error_ms = np.full(len(line), np.nan)
    error_ms[line.of_note] = error_s * 1000
    in_beat = np.zeros(len(line), dtype=np.int64)
    in_beat[line.of_note] = note_in_beat
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
        in_beat=in_beat,
        ends=np.union1d(line.start, line.end),
        beat_ms=beat_s * 1000,
    )


def _jump_ms(error_ms: FloatArray, moment: int) -> float:
    """Return how far the next note after a moment lies from the last one up to it."""
    before, after = (np.flatnonzero(np.isfinite(part)) for part in (error_ms[: moment + 1], error_ms[moment + 1 :]))
    if not before.size or not after.size:
        return 0.0
    return abs(float(error_ms[moment + 1 + after[0]] - error_ms[before[-1]]))
