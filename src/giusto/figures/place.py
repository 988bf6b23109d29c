"""The player's own place while the click sounds, and the spread about it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.arrays import FloatArray
from giusto.ranges import Range, interval, sample_sd, student
from giusto.schedule.timeline import Timeline
from giusto.timekeeper.track import Track


@dataclass(frozen=True, slots=True)
class Place:
    """The player's place while the click sounds, and the spread about it and from note to note.

    Attributes
    ----------
    n : int
        Notes that show it.
    mean_error_ms, ci95_ms
        Where the player sits against the click, the device's delay included; late is positive.
    sd_ms : float or None
        Spread about it.
    interval_sd_ms : float or None
        Spread of the steps between neighbouring notes.
    """

    n: int
    mean_error_ms: float | None = None
    ci95_ms: Range | None = None
    sd_ms: float | None = None
    interval_sd_ms: float | None = None


def place_of(errors_ms: FloatArray, steps_ms: FloatArray, track: Track) -> Place:
    """Return the player's place from the errors of notes with the click.

    Parameters
    ----------
    errors_ms : array of float, shape (n,)
        What is left of the error a player came back with taken off (``recovery``).
    steps_ms : array of float
        Between neighbours among them.
    track : Track
    """
    if not errors_ms.size:
        return Place(0)
    mean = float(errors_ms.mean())
    return Place(
        n=errors_ms.size,
        mean_error_ms=round(mean, 3),
        ci95_ms=interval(mean, track.place_var, quantile=student(errors_ms.size)),  # few notes: a wide one
        sd_ms=sample_sd(errors_ms),
        interval_sd_ms=sample_sd(steps_ms),
    )


def recovery(track: Track, line: Timeline) -> FloatArray:
    """Return what is left at each moment of the error a player came back with, as the clicks take it back.

    It belongs to the silence before; with it the player's place would lean to the last return.
    """
    n = len(line)
    first = np.zeros(n, dtype=np.int64)  # the moment after the last return into the click
    back = line.end[np.append(line.silence, -1)[line.end] == -1]
    back = back[back + 1 < n] + 1
    if not back.size:
        return np.zeros(n)
    first[back] = back
    first = np.maximum.accumulate(first)
    left = np.concatenate([[0.0], np.cumsum(line.clicks * np.log1p(-track.sizes.alpha))])
    return np.where(first > 0, track.clock_ms[first] * np.exp(left - left[first]), 0.0)
