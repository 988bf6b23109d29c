"""Others in the room: softer sounds, of another kind than the instrument's, that keep another time.

Another's groove, however soft, has attacks as clear as the player's. Three things together tell it: it never comes near
the loudness of the player's own notes, it sounds otherwise, and it falls anywhere between them. Soft notes of one's own
fail one of the three: they sound as the loud ones do, or they stand where the rhythm puts them.
"""

from __future__ import annotations

import numpy as np

from giusto.arrays import BoolArray, FloatArray
from giusto.hearing.attack import attacks
from giusto.hearing.sound import Sound

LEFT_OUT = "{} softer sounds of another kind, that keep another time, were left out as somebody else’s"
# All of it ours, by takes of recorded notes with a groove behind them (docs/accuracy.md).
LOUD, LOUD_DB = 0.95, 8.0  # of all onsets by loudness, and so far below that one they are still the instrument's own
LEAST_DB = -70.0  # of full scale, by which a peak rises above what rang before
FAR_BELOW_DB = 22.0  # where there are others, what is as soft as this is theirs
FEWEST_LOUD, FEWEST_OTHERS = 8, 10
UNLIKE, OF_LOUD, LESS = 0.96, 0.1, 0.04  # alikeness: at most the first; else below a tenth of the loud ones', and less
ALIKE_OWN, COVERED = 0.9, 2  # alikeness of what another's attack stands over, to be one's own; and its mark
TURNS = (2, 3, 4, 6, 8)  # parts of the time between two own notes where a rhythm stands
IN_TIME = 0.6  # mean resultant length about such parts: they stand there
FARTHEST = 4.0  # of the usual time between own notes: longer gaps are pauses


def remarks_of(number: int) -> tuple[str, ...]:
    """Return what a reading says of so many onsets that were left out."""
    return (LEFT_OUT.format(number),) if number else ()


def others(sound: Sound, onset_s: FloatArray) -> BoolArray:
    """Return which onsets are another's.

    Parameters
    ----------
    sound : Sound
    onset_s : array of float, ascending, shape (n,)

    Returns
    -------
    array of bool, shape (n,)
        All False where there are few onsets, or too few of them are unlike the rest.
    """
    none = np.zeros(onset_s.size, dtype=bool)
    if onset_s.size < FEWEST_LOUD + FEWEST_OTHERS:
        return none
    heard = attacks(sound, onset_s)
    below_db = float(np.quantile(heard.loudness, LOUD)) - heard.loudness
    is_loud = below_db <= LOUD_DB
    if np.count_nonzero(is_loud) < FEWEST_LOUD:
        return none
    alike = heard.alike(is_loud)
    surely = ~is_loud & (alike < min(UNLIKE, float(np.quantile(alike[is_loud], OF_LOUD)) - LESS))
    # What does not rise above what rang before may be an end, or a beating of one's own: no evidence of anybody.
    if np.count_nonzero(surely & (heard.loudness > LEAST_DB)) < FEWEST_OTHERS:
        return none
    likelier = (heard.alike(surely) > alike) | (below_db > FAR_BELOW_DB)
    found: BoolArray = surely | (~is_loud & likelier)
    return none if _in_time(onset_s[found], onset_s[~found]) else found


def covered_own(sound: Sound, onset_s: FloatArray, own: BoolArray, covered_s: FloatArray) -> BoolArray:
    """Return which swellings are soft notes of one's own, though another's attack stands over them.

    Parameters
    ----------
    sound : Sound
    onset_s : array of float, ascending, shape (n,)
    own : array of bool, shape (n,)
        Which of them are one's own.
    covered_s : array of float, ascending, shape (m,)
        Where the sound swells, none near an own onset.

    Returns
    -------
    array of bool, shape (m,)
    """
    if not covered_s.size or not own.any():
        return np.zeros(covered_s.size, dtype=bool)
    both = np.concatenate([onset_s, covered_s])
    order = np.argsort(both, kind="stable")
    whose = np.concatenate([own.astype(int), np.full(covered_s.size, COVERED)])[order]
    heard = attacks(sound, both[order])
    to_own, to_others = heard.alike(whose == 1), heard.alike(whose == 0)
    found: BoolArray = ((to_own >= ALIKE_OWN) & (to_own >= to_others))[whose == COVERED]
    return found


def _in_time(other_s: FloatArray, own_s: FloatArray) -> bool:
    """Return whether onsets stand at parts of the time between one's own, as notes of one rhythm do."""
    after = np.searchsorted(own_s, other_s)
    inside = (after > 0) & (after < own_s.size)
    begin, end = own_s[after[inside] - 1], own_s[after[inside]]
    usual = end - begin <= FARTHEST * float(np.median(np.diff(own_s)))
    part = (other_s[inside] - begin)[usual] / (end - begin)[usual]
    if part.size < FEWEST_OTHERS:
        return True  # too few to tell
    return any(abs(np.mean(np.exp(2j * np.pi * turn * part))) > IN_TIME for turn in TURNS)
