"""Two strokes for one: flams, which two hands make, and doubles, which one hand makes or a pad that bounces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from giusto.arrays import FloatArray

CLOSE_S, CLOSE_SLOT = 0.1, 0.4  # ours: two strokes this close, and this near for the slot, are one that sounded twice
FEWEST = 3  # ours: fewer are slips


@dataclass(frozen=True, slots=True)
class Doubles:
    """Strokes that sounded twice, as ``reading/1`` writes them.

    Attributes
    ----------
    n : int
    gap_ms : float
        From the first stroke of a pair to the second, the median.
    flams, by_one : int or None
        Of how many the second was another hand's, and of how many the same one's; None where hands are not told apart.
    """

    n: int
    gap_ms: float
    flams: int | None
    by_one: int | None


def doubles(onset_s: FloatArray, made_by: NDArray[np.str_], *, slot_s: float) -> Doubles | None:
    """Return the strokes of a take that sounded twice; None where there are fewer than three.

    Parameters
    ----------
    onset_s : array of float, shape (played,)
        All that was played, ascending.
    made_by : array of str, shape (played,)
        What made each; ``""`` where that is not known.
    slot_s : float
        The shortest length that is asked.

    Examples
    --------
    >>> onset_s = np.array([0.0, 0.5, 0.53, 1.0, 1.03, 1.5, 1.53])
    >>> doubles(onset_s, np.array(["r", "l", "r", "r", "l", "l", "l"]), slot_s=0.5)
    Doubles(n=3, gap_ms=30.0, flams=2, by_one=1)
    """
    gap_s = np.diff(onset_s)
    second = np.flatnonzero(gap_s < min(CLOSE_S, CLOSE_SLOT * slot_s)) + 1
    if second.size < FEWEST:
        return None
    first_by, second_by = made_by[second - 1], made_by[second]
    known = (first_by != "") & (second_by != "")
    told_apart = np.unique(made_by[made_by != ""]).size > 1  # one name for all is no hand's
    return Doubles(
        n=int(second.size),
        gap_ms=round(1000 * float(np.median(gap_s[second - 1])), 1),
        flams=int(np.count_nonzero(known & (first_by != second_by))) if told_apart else None,
        by_one=int(np.count_nonzero(known & (first_by == second_by))) if told_apart else None,
    )
