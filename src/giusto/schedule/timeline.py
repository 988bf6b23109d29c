"""The moments at which a player's clock is looked at: asked notes and the ends of silences.

Between two moments the clock takes one step. What may happen in that step (which clicks are heard,
which silence it lies in) is the same for the simulated player, the matcher and the smoother.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.schedule import Schedule

REACTION_S = 0.2  # from memory: a click changes no note that is played within 150 to 250 ms of it


@dataclass(frozen=True, slots=True)
class Timeline:
    """Moments of a drill and the steps between them.

    Attributes
    ----------
    time_s : array of float, shape (n,)
        The asked time of each moment, ascending.
    note : array of int, shape (n,)
        Index of the note that may be played at the moment (``Schedule.playable``), −1 where a silence
        ends and none is.
    interval_s : array of float, shape (n − 1,)
        Length of each step.
    clicks : array of int, shape (n − 1,)
        Main clicks heard from the step's first moment (included) to its last (not included).
    silence : array of int, shape (n − 1,)
        Index of the silence the step lies in, −1 where the click sounds.
    on_click : array of bool, shape (n,)
        Moments at which a click sounds.
    with_click : array of bool, shape (n,)
        Moments within one beat after a click and in no silence; a returning click's own moment
        belongs to the silence, since nobody reacts that fast.
    beat_s : array of float, shape (n,)
        How long a beat lasts there.
    start, end : array of int, shape (silences,)
        The moments at which each silence starts and ends.
    of_note : array of int, shape (notes,)
        The moment of each asked note.
    """

    time_s: FloatArray
    note: IntArray
    interval_s: FloatArray
    clicks: IntArray
    silence: IntArray
    on_click: BoolArray
    with_click: BoolArray
    beat_s: FloatArray
    start: IntArray
    end: IntArray
    of_note: IntArray

    def __len__(self) -> int:
        return self.time_s.size


def timeline(schedule: Schedule) -> Timeline:
    """Return the moments of a schedule.

    Parameters
    ----------
    schedule : Schedule

    Returns
    -------
    Timeline
    """
    notes = schedule.playable
    starts = np.array([s.start_tick for s in schedule.silences], dtype=np.int64)
    ends = np.array([s.end_tick for s in schedule.silences], dtype=np.int64)
    tick = np.union1d(notes.tick, np.concatenate([starts, ends]))
    of_note = np.searchsorted(tick, notes.tick)
    note = np.full(tick.size, -1)
    note[of_note] = np.arange(of_note.size)
    time_s = schedule.seconds(tick)
    silence = _silence_of_steps(tick[:-1], starts, ends)
    return Timeline(
        time_s=time_s,
        note=note,
        interval_s=np.diff(time_s),
        clicks=np.diff(np.searchsorted(schedule.clicks.tick, tick)),
        silence=silence,
        on_click=np.isin(tick, schedule.clicks.tick),
        with_click=_is_with_click(schedule, tick) & np.concatenate([[True], silence == -1]),
        beat_s=schedule.tempos.beat_s(tick),
        start=np.searchsorted(tick, starts),
        end=np.searchsorted(tick, ends),
        of_note=of_note,
    )


def returns(line: Timeline) -> IntArray:
    """Return the moments at which the click comes back to stay: a silence ends and none begins."""
    last = len(line) - 1
    back: IntArray = np.array([k for k in line.end.tolist() if k == last or line.silence[k] < 0], dtype=np.int64)
    return back


def _is_with_click(schedule: Schedule, tick: IntArray) -> BoolArray:
    clicks = schedule.clicks.tick
    before = np.searchsorted(clicks, tick) - 1
    if not clicks.size:
        return np.zeros(tick.size, dtype=bool)
    return (before >= 0) & (tick - clicks[np.maximum(before, 0)] <= schedule.ticks_per_beat)


def _silence_of_steps(first_tick: IntArray, starts: IntArray, ends: IntArray) -> IntArray:
    if not starts.size:
        return np.full(first_tick.size, -1)
    before = np.searchsorted(starts, first_tick, side="right") - 1
    inside = (before >= 0) & (first_tick < ends[before])
    return np.where(inside, before, -1)
