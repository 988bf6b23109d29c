"""An instrument's sound, learned from some strokes of it: by that its notes are told from another's and from the room.

Several instruments may be learned: snare and ride, the left hand and the right, voice and hands.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing.attack import BANDS, attacks, nearest
from giusto.hearing.level import Gate
from giusto.hearing.onsets import Heard, onsets
from giusto.hearing.sound import Sound

# All of it ours, by recorded notes (docs/accuracy.md).
FEWEST, MOST = 8, 24  # strokes that an instrument is learned from
LESS = 0.12  # alikeness: a note is none of an instrument where it is so much less alike than its own strokes
SOFTER_DB = 12.0  # below the loudest of a take; what is as loud is played, whatever it sounds like
LOUDEST = 0.95  # of all onsets by loudness
OTHERWISE = 0.5  # of the loud ones are unlike all instruments: then none of these is played
LEFT_OUT = "{} soft sounds unlike the instruments that were learned were left out"


@dataclass(frozen=True, slots=True, eq=False)
class Timbre:
    """How an instrument's strokes sound.

    Attributes
    ----------
    name : str
    shapes : array of float, shape (strokes, bands)
        What each stroke brought, as ``giusto.hearing.attack`` has it.
    own : float
        How alike a stroke of it is to the others, at least, as a rule (a tenth are less).
    """

    name: str
    shapes: FloatArray
    own: float


def learned(sound: Sound, name: str, *, gate: Gate | None = None) -> Timbre:
    """Learn an instrument from some seconds of it.

    Raises
    ------
    GiustoError
        ``strokes``, where fewer than eight stand clear.
    """
    found = onsets(sound)
    onset_s = (gate.passed(found) if gate else found).onset_s[:MOST]
    if onset_s.size < FEWEST:
        raise GiustoError(f"{onset_s.size} strokes stand clear, and {FEWEST} are needed", code="strokes")
    heard = attacks(sound, onset_s)
    return timbre(name, heard.shapes)


def timbre(name: str, shapes: FloatArray) -> Timbre:
    """Return a timbre from the shapes of its strokes.

    Raises
    ------
    GiustoError
        ``shapes``, where they are no shapes of strokes.
    """
    rows = np.asarray(shapes, dtype=np.float64)
    is_whole = rows.ndim == 2 and FEWEST <= len(rows) <= MOST and 1 <= rows.shape[1] <= BANDS
    if not is_whole or not np.all(np.isfinite(rows)) or np.any(rows < 0):
        raise GiustoError(
            f"a timbre has {FEWEST} to {MOST} strokes of {BANDS} bands at most, none below 0", code="shapes"
        )
    rows = rows / np.maximum(np.sqrt(np.sum(rows**2, axis=1, keepdims=True)), 1e-9)
    among = rows @ rows.T
    np.fill_diagonal(among, 0.0)
    return Timbre(name, rows, float(np.quantile(nearest(among), 0.1)))


def told_apart(sound: Sound, heard: Heard, known: Sequence[Timbre]) -> tuple[NDArray[np.str_], Heard, int]:
    """Return of which instrument each onset is, and the onsets without what is none of them.

    Parameters
    ----------
    sound : Sound
    heard : Heard
    known : sequence of Timbre
        Learned at the same rate, or another that reaches as high.

    Returns
    -------
    names : array of str, shape (kept,)
    kept : Heard
        Without what is soft and unlike all instruments.
    left_out : int
    """
    fitting = list(known)
    if not fitting or not heard.onset_s.size:
        return np.zeros(heard.onset_s.size, dtype="U1"), heard, 0
    sounds = attacks(sound, heard.onset_s)
    fitting = [one for one in fitting if one.shapes.shape[1] == sounds.shapes.shape[1]]
    if not fitting:
        return np.zeros(heard.onset_s.size, dtype="U1"), heard, 0
    alike = np.stack([nearest(sounds.likeness(one.shapes)) for one in fitting], axis=1)
    best = alike.argmax(axis=1)
    unlike = alike.max(axis=1) < np.array([one.own for one in fitting])[best] - LESS
    soft = sounds.loudness < np.quantile(sounds.loudness, LOUDEST) - SOFTER_DB
    if np.mean(unlike[~soft]) > OTHERWISE:  # something else is played, which nobody has learned
        return np.zeros(heard.onset_s.size, dtype="U1"), heard, 0
    kept = ~(unlike & soft)
    names = np.array([one.name for one in fitting])[best]
    names = np.where(unlike, "", names)[kept]
    told = Heard(heard.onset_s[kept], heard.strength[kept], heard.others)
    return names, told, int(np.count_nonzero(~kept))
