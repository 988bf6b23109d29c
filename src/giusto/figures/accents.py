"""Accents played against accents asked: how much stronger notes are where the drill's click is accented."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np
from scipy.special import stdtrit

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.ranges import Range, rounded

FEWEST_CYCLES = 4  # ours


@dataclass(frozen=True, slots=True)
class Accents:
    """How accents stand out, as ``reading/1`` writes it; strengths from 0 to 1.

    Attributes
    ----------
    n : int
        Accented notes that were caught.
    stronger, ci95 : float, (float, float)
        What they are stronger by than the other notes of their cycles.
    heard_percent : float
        Of them, stronger than every other note of their cycle.
    """

    n: int
    stronger: float
    ci95: Range
    heard_percent: float


def accents(strength: FloatArray, cycle: IntArray, accented: BoolArray) -> Accents | None:
    """Return how accents stand out; None where strengths are not known, or fewer than four cycles show it.

    Parameters
    ----------
    strength : array of float, shape (caught,)
        NaN where it is not known.
    cycle : array of int, shape (caught,)
    accented : array of bool, shape (caught,)
        Whether an accent is asked there.

    Notes
    -----
    Each cycle's accents less its other notes, on average; over cycles the mean with Student's range, so that a take
    that fades or grows is no accent.
    """
    known = np.isfinite(strength)
    apart, heard, n = [], 0, 0
    for number in np.unique(cycle[known]).tolist():
        here = known & (cycle == number)
        strong, other = strength[here & accented], strength[here & ~accented]
        if strong.size and other.size:
            apart.append(float(strong.mean() - other.mean()))
            heard += int(np.count_nonzero(strong > other.max()))
            n += strong.size
    if len(apart) < FEWEST_CYCLES:
        return None
    mean = float(np.mean(apart))
    half = float(stdtrit(len(apart) - 1, 0.975)) * float(np.std(apart, ddof=1)) / sqrt(len(apart))
    return Accents(n, round(mean, 4), rounded((mean - half, mean + half)), round(100 * heard / n, 1))
