"""The traditional scale of 39 tempos, and tempo words."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from itertools import accumulate, chain, repeat
from math import log

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
