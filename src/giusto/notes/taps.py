"""The tempo of taps, robust against a stray one."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import ArrayLike

from giusto.arrays import FloatArray
from giusto.notes.checks import checked_onsets
from giusto.ranges import student

STRAY_SHARE = 0.25  # ours: a tap further than this part of a beat from the others' pulse is a stray
FEWEST_FOR_RANGE = 4  # ours: taps; two intervals' spread says nothing


@dataclass(frozen=True, slots=True)
class TapTempo:
    """The tempo of some taps.

    Attributes
    ----------
    bpm : float or None
        None for fewer than two taps.
    ci95_bpm : (float, float) or None
        Its 95 % range; None where too few taps give one.
    used, strays : int
        Taps that the tempo rests on, and taps left out.
    """

    bpm: float | None
    ci95_bpm: tuple[float, float] | None
    used: int
    strays: int


def tapped_tempo(taps_s: ArrayLike) -> TapTempo:
    """Return the tempo of taps, robust against a stray one and against one left out.

    Parameters
    ----------
    taps_s : array_like, shape (n,)
        Seconds, ascending.

    Returns
    -------
    TapTempo

    Raises
    ------
    GiustoError
        Where the taps break a rule of onsets.

    Notes
    -----
    The median interval counts the beats between taps; taps off that pulse by more than a quarter of a
    beat are strays. The tempo is that of the mean interval, its range the mean's t interval, which is
    safe for tapping (its successive intervals correlate negatively; Wing & Kristofferson 1973).

    Examples
    --------
    >>> tapped_tempo([0.0, 0.5, 1.0, 1.2, 1.5, 2.0, 2.5])
    TapTempo(bpm=120.0, ci95_bpm=(120.0, 120.0), used=6, strays=1)
    """
    taps = checked_onsets(taps_s)
    if taps.size < 2 or taps[0] == taps[-1]:
        return TapTempo(None, None, taps.size, 0)
    kept, beats = _on_the_pulse(taps)
    if kept.size < 2:
        return TapTempo(None, None, kept.size, taps.size - kept.size)
    intervals = np.diff(kept) / np.diff(beats)
    mean = float((kept[-1] - kept[0]) / (beats[-1] - beats[0]))
    span = None
    if kept.size >= FEWEST_FOR_RANGE:
        m = intervals.size
        half = student(m) * float(np.std(intervals, ddof=1)) / sqrt(m)
        span = (round(60 / (mean + half), 3), round(60 / max(mean - half, 1e-3), 3))
    return TapTempo(round(60 / mean, 3), span, kept.size, taps.size - kept.size)


def _on_the_pulse(taps: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the taps that share one pulse, and the beat each falls on."""
    period_s = float(np.median(np.diff(taps)))
    best = (np.empty(0), np.empty(0))
    for anchor in taps:  # the tap that most others agree with; strays agree with few
        beats = (taps - anchor) / period_s
        near = np.abs(beats - np.round(beats)) < STRAY_SHARE
        _, first = np.unique(np.round(beats[near]), return_index=True)
        if first.size > best[0].size:
            best = (taps[near][first], np.round(beats[near][first]))
    return best
