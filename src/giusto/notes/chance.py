"""Whether notes fit a drill any better than chance would."""

from __future__ import annotations

import numpy as np

from giusto.arrays import FloatArray
from giusto.notes.match import Matching, unpaired
from giusto.schedule.layout import Schedule

FEWEST_MATCHED = 8  # ours: pairs; fewer look like anything
# Ours, by simulation: notes at random leave out and add .65 to .9 of a drill between them and jump by .07 to
# .4 of a slot from one to the next; a beginner of 5 % clock, 30 ms hand, a tenth missed and added stays below.
UNPAIRED, JUMPS = 0.6, 0.09


def is_by_chance(schedule: Schedule, onsets_s: FloatArray, matching: Matching) -> bool:
    """Return whether a matching is no better than one of notes played at random.

    Parameters
    ----------
    schedule : Schedule
    onsets_s : array of float, shape (played,)
    matching : Matching

    Notes
    -----
    Looked at from the first pair to the last: the share of asked notes left out and of played ones added
    together, and the median jump of the error from one pair to the next, a slot being 1.
    """
    if schedule.is_free or matching.asked.size < FEWEST_MATCHED:
        return False
    asked_s = schedule.seconds(schedule.notes.tick)
    error_s = onsets_s[matching.played] - asked_s[matching.asked]
    jumps = np.abs(np.diff(error_s)) / float(np.min(np.diff(asked_s)))
    return unpaired(matching.asked, matching.played) > UNPAIRED and float(np.median(jumps)) > JUMPS
