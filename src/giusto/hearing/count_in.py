"""Four even strokes count a take in: nothing else does."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf

import numpy as np
from numpy.typing import ArrayLike

from giusto.notes.checks import checked_onsets
from giusto.tempo import SECONDS_PER_MINUTE

STROKES = 4  # by the issue
FASTEST_S, SLOWEST_S = 0.2, 2.2  # ours: 300 to 27 bpm
UNEVEN = 0.09  # ours: of the mean interval; a player's spread is 2 to 4 %
REST_S, REST = 2.0, 1.6  # ours: rest before the first, and in intervals, else they are notes of something played


@dataclass(frozen=True, slots=True)
class CountedIn:
    """A take was counted in.

    Attributes
    ----------
    last_s : float
        Of the fourth stroke, by the line of the four.
    beat_s : float
        From stroke to stroke.
    """

    last_s: float
    beat_s: float

    @property
    def bpm(self) -> float:
        """The strokes' own tempo, to half a beat a minute."""
        return round(2 * SECONDS_PER_MINUTE / self.beat_s) / 2


def counted_in(strokes_s: ArrayLike, *, heard_from_s: float = -inf) -> CountedIn | None:
    """Return whether the newest strokes count a take in: four, even, after a rest.

    Parameters
    ----------
    strokes_s : array_like, shape (n,)
        Ascending.
    heard_from_s : float
        Since when somebody listens: a rest that nobody heard is none, and who never stops playing begins nothing.

    Raises
    ------
    GiustoError
        Where they do not ascend or are no times.

    Examples
    --------
    >>> counted_in([1.0, 1.5, 2.0, 2.5])
    CountedIn(last_s=2.5, beat_s=0.5)
    >>> counted_in([1.0, 1.5, 2.0]) is None, counted_in([1.0, 1.5, 2.2, 2.5]) is None
    (True, True)
    """
    times_s = checked_onsets(strokes_s)
    if times_s.size < STROKES:
        return None
    four = times_s[-STROKES:]
    steps_s = np.diff(four)
    beat_s = float(four[-1] - four[0]) / (STROKES - 1)
    if not FASTEST_S <= beat_s <= SLOWEST_S or np.max(np.abs(steps_s - beat_s)) > UNEVEN * beat_s:
        return None
    before_s = max(heard_from_s, *times_s[-STROKES - 1 : -STROKES].tolist(), -inf)
    if four[0] - before_s < max(REST_S, REST * beat_s):
        return None
    slope, start = np.polyfit(np.arange(STROKES), four, 1)
    return CountedIn(round(float(start + (STROKES - 1) * slope), 6), round(float(slope), 6))
