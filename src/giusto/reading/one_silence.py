"""One silence of a take that is still being played, from the notes about it alone."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from giusto.figures.silence import SilenceReading
from giusto.notes.record import Played
from giusto.reading.analyse import analyse
from giusto.reading.format import Thread
from giusto.schedule.layout import Grid, Schedule
from giusto.timekeeper.prior import WEAK, Prior

CYCLES_BEFORE = 6  # ours: cycles before a silence that tell the player's place with the click
BEATS_AFTER = 1  # up to the note that answers the return

SETTLE_SHARE, SETTLE_S = 0.6, 0.5  # ours: of the longest beat after a return, and no longer than this


def settle_s(schedule: Schedule) -> float:
    """Return how long after a return the note that answers it may come: then the silence is read.

    Examples
    --------
    >>> from giusto.drill import validate
    >>> from giusto.schedule import schedule
    >>> plain = {"giusto": "drill/1", "cycle": {"beats": 4}, "clicks": {"on": ["1"]}, "part": {"grid": 1}, "cycles": 4}
    >>> [round(settle_s(schedule(validate({**plain, "tempo": {"bpm": bpm}}))), 6) for bpm in (30, 120)]
    [0.5, 0.3]
    """
    return min(SETTLE_SHARE * float(np.max(schedule.tempos.beat_s(schedule.tempos.tick))), SETTLE_S)


def analyse_silence(
    schedule: Schedule, notes: Played, index: int, *, prior: Prior = WEAK
) -> tuple[SilenceReading, Thread] | None:
    """Return one silence of a take and the thread through it, or None where its notes say nothing.

    Parameters
    ----------
    schedule : Schedule
    notes : Played
        Of the take so far.
    index : int
        Of the silence, from 0.
    prior : Prior

    Notes
    -----
    The take is cut to some cycles before the silence and a beat after it, so the cost does not grow with
    the take. An improvised part can't be cut, and is read whole.
    """
    part, first = _window(schedule, index)
    start_s, end_s = part.seconds(np.array([part.notes.tick[0], part.notes.tick[-1]])) if len(part.notes) else (0, 0)
    slot_s = schedule.beat_s
    near = np.flatnonzero((notes.onset_s > start_s - slot_s) & (notes.onset_s < end_s + slot_s))
    analysis = analyse(part, notes if schedule.is_free else notes.where(near), prior=prior)
    silence = analysis.reading.silences[index - first]
    return (silence, analysis.thread) if analysis.thread and silence.notes else None


def _window(schedule: Schedule, index: int) -> tuple[Schedule, int]:
    """Return the part of a schedule about a silence, and the index of its first silence in the whole."""
    if schedule.is_free:
        return schedule, 0
    silence = schedule.silences[index]
    low = silence.start_tick - CYCLES_BEFORE * schedule.cycle_ticks
    high = silence.end_tick + BEATS_AFTER * schedule.ticks_per_beat

    def cut(grid: Grid) -> Grid:
        return grid.where((grid.tick >= low) & (grid.tick <= high))

    kept = [k for k, other in enumerate(schedule.silences) if other.start_tick >= low and k <= index]
    inside = (schedule.clicks.tick >= low) & (schedule.clicks.tick <= high)
    part = replace(
        schedule,
        clicks=schedule.clicks.where(inside),
        kinds=schedule.kinds[inside],
        withheld=cut(schedule.withheld),
        notes=cut(schedule.notes),
        silences=tuple(schedule.silences[k] for k in kept),
    )
    return part, kept[0]
