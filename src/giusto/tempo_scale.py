"""The traditional scale of 39 tempos, tempo words, and tempo from taps."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass
from itertools import accumulate, chain, repeat
from math import log, sqrt

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import stdtrit

from giusto.arrays import FloatArray
from giusto.onsets import checked_onsets

# Common practice, from memory: steps of 2 to 60, of 3 to 72, of 4 to 120, of 6 to 144, of 8 to 208.
_STEPS = chain(repeat(2, 10), repeat(3, 4), repeat(4, 12), repeat(6, 4), repeat(8, 8))
SCALE_BPM: tuple[int, ...] = tuple(accumulate(_STEPS, initial=40))

# Two tables that differ, as tables do: say which one a word comes from.
# "printed": the ranges of the traditional printed scale (from memory; sources disagree).
PRINTED_WORDS = (
    ("Largo", 40, 60),
    ("Larghetto", 60, 66),
    ("Adagio", 66, 76),
    ("Andante", 76, 108),
    ("Moderato", 108, 120),
    ("Allegro", 120, 168),
    ("Presto", 168, 200),
    ("Prestissimo", 200, 208),
)
# "single": one value a word, those of music21 10.5.1, tempo.defaultTempoValues.
SINGLE_WORDS = (
    ("Larghissimo", 16),
    ("Grave", 40),
    ("Largo", 46),
    ("Lento", 52),
    ("Adagio", 56),
    ("Larghetto", 60),
    ("Adagietto", 66),
    ("Andante", 72),
    ("Andantino", 80),
    ("Moderato", 92),
    ("Allegretto", 108),
    ("Allegro", 132),
    ("Vivace", 160),
    ("Presto", 184),
    ("Prestissimo", 208),
)
WORD_TABLES = ("printed", "single")
STRAY_SHARE = 0.25  # ours: a tap further than this part of a beat from the others' pulse is a stray
FEWEST_FOR_RANGE = 4  # ours: taps; two intervals' spread says nothing


def notch(tempo_bpm: float, steps: int) -> float:
    """Return the tempo some notches up or down the 39-step scale.

    Parameters
    ----------
    tempo_bpm : float
        Any tempo; the first notch from one between two steps is the next step.
    steps : int
        Up where positive, down where negative.

    Returns
    -------
    float
        A step of the scale; beyond its ends, the end, or the tempo itself where that lies outside.

    Examples
    --------
    >>> notch(84, -1), notch(85, 1), notch(85, -1), notch(208, 1)
    (80, 88, 84, 208)
    """
    if steps > 0:
        index = bisect_right(SCALE_BPM, tempo_bpm) + steps - 1
        return max(SCALE_BPM[min(index, len(SCALE_BPM) - 1)], tempo_bpm)
    if steps < 0:
        index = bisect_left(SCALE_BPM, tempo_bpm) + steps
        return min(SCALE_BPM[max(index, 0)], tempo_bpm)
    return tempo_bpm


def tempo_word(tempo_bpm: float, *, table: str) -> str:
    """Return the word for a tempo, by one named table.

    Parameters
    ----------
    tempo_bpm : float
    table : {"printed", "single"}
        Ranges of the printed scale, its first or last word beyond its ends; or the word whose one
        value is nearest in ratio.

    Returns
    -------
    str

    Examples
    --------
    >>> tempo_word(96, table="printed"), tempo_word(96, table="single")
    ('Andante', 'Moderato')
    """
    if table == "printed":
        starts = [low for _, low, _ in PRINTED_WORDS]
        return PRINTED_WORDS[max(bisect_right(starts, tempo_bpm) - 1, 0)][0]
    if table == "single":
        return min(SINGLE_WORDS, key=lambda word: abs(log(word[1] / tempo_bpm)))[0]
    raise ValueError(f"table is {table!r}, allowed are {WORD_TABLES}")


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
        half = float(stdtrit(m - 1, 0.975)) * float(np.std(intervals, ddof=1)) / sqrt(m)
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
