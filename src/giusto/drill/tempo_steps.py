"""A tempo that changes: which one each cycle of a drill has (``drill/2``)."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable
from fractions import Fraction

from giusto.drill.file import Tempo
from giusto.tempo import exact_bpm
from giusto.tempo_scale import SCALE_BPM


def step_bpm(tempo: Tempo, step: int) -> Fraction:
    """Return the tempo after some steps, never beyond the last one.

    Parameters
    ----------
    tempo : Tempo
    step : int
        0 for the first tempo.

    Returns
    -------
    Fraction
        Beats a minute, exactly.

    Notes
    -----
    By notches: the first tempo, the steps of the traditional scale between it and the last, the last.

    Examples
    --------
    >>> tempo = Tempo.model_validate({"bpm": 60, "steps": {"every_cycles": 8, "by": 25, "to": 120}})
    >>> [float(step_bpm(tempo, step)) for step in range(4)]
    [60.0, 85.0, 110.0, 120.0]
    >>> by_notch = Tempo.model_validate({"bpm": 85, "steps": {"every_cycles": 8, "by": "notch", "to": 93}})
    >>> [float(step_bpm(by_notch, step)) for step in range(4)]
    [85.0, 88.0, 92.0, 93.0]
    """
    first, steps = exact_bpm(tempo.bpm), tempo.steps
    if steps is None or step == 0:
        return first
    last = exact_bpm(steps.to)
    if steps.by == "notch":
        way = [*notches_between(first, last), last]
        return way[min(step, len(way)) - 1]
    reached = first + step * exact_bpm(steps.by)
    return min(reached, last) if last >= first else max(reached, last)


def notches_between(first: Fraction, last: Fraction) -> list[Fraction]:
    """Return the steps of the traditional scale strictly between two tempos, in the order of the way."""
    low, high = min(first, last), max(first, last)
    between = [Fraction(bpm) for bpm in SCALE_BPM[bisect_right(SCALE_BPM, low) : bisect_left(SCALE_BPM, high)]]
    return between if last >= first else between[::-1]


def cycle_bpm(tempo: Tempo, *, cycles: int, sounding: Iterable[int]) -> list[Fraction]:
    """Return the tempo of each cycle, from the first of the body on.

    Parameters
    ----------
    tempo : Tempo
    cycles : int
        Of body and close.
    sounding : iterable of int
        Cycles with a click, counted from 1.

    Notes
    -----
    Step k is due after k · ``every_cycles`` cycles; a step that falls due while no cycle sounds waits for
    the next that does, where ``on`` is ``sounding``. Closing cycles count on.
    """
    if tempo.steps is None:
        return [exact_bpm(tempo.bpm)] * cycles
    waits = set(range(1, cycles + 1)) - set(sounding) if tempo.steps.on == "sounding" else set()
    found, step = [], 0
    for cycle in range(1, cycles + 1):
        if cycle not in waits:
            step = (cycle - 1) // tempo.steps.every_cycles
        found.append(step_bpm(tempo, step))
    return found
