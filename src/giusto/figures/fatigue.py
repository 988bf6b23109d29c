"""Does a long take tire: spread and tempo in its first third beside its last."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log, sqrt

import numpy as np

from giusto.arrays import FloatArray
from giusto.figures.tendency import SPREAD_PERCENT
from giusto.missing import Missing
from giusto.pooling import pool
from giusto.ranges import Range, rounded, size_range

LONG_S = 120.0  # ours: shorter takes are not asked whether they tired
FEWEST_IN_A_THIRD = 24  # ours: intervals in a third


@dataclass(frozen=True, slots=True)
class Fatigue:
    """First and last third of a take.

    Attributes
    ----------
    spread_first_ms, spread_last_ms : float
        Standard deviation of one note, as neighbouring intervals show it.
    spread_ratio : float
        Last over first; above 1 is wider.
    spread_ratio_ci95 : (float, float)
    tempo_change_percent : float or None
        Tempo held in the last third's silences less that of the first third's; None without silences
        in both.
    tempo_change_ci95_percent : (float, float) or None
    """

    spread_first_ms: float
    spread_last_ms: float
    spread_ratio: float
    spread_ratio_ci95: Range
    tempo_change_percent: float | None
    tempo_change_ci95_percent: Range | None


def fatigue(
    error_ms: FloatArray, time_s: FloatArray, *, middle_s: FloatArray, tempo_percent: FloatArray, tempo_var: FloatArray
) -> Fatigue | Missing:
    """Return how the last third of a take differs from its first, or why it isn't asked.

    Parameters
    ----------
    error_ms, time_s : array of float, shape (notes,)
        Own error of each caught note and when it was asked, ascending.
    middle_s, tempo_percent, tempo_var : array of float, shape (silences,)
        When each readable silence has its middle, the tempo its clock was set to, and its variance.

    Notes
    -----
    The spread is √(⅙ Σ d²) with d the second differences of the errors, so that neither drift nor the
    correction after a return counts. Second differences of white noise have a lag-one correlation of
    −2/3, a lag-two one of 1/6, so the logarithm of the spread has the variance (1 + 2·(4/9 + 1/36)) / 2n.
    """
    length_s = float(time_s[-1] - time_s[0]) if time_s.size else 0.0
    if length_s < LONG_S:
        return Missing("fatigue", "short-take", length_s, LONG_S)
    cuts = time_s[0] + length_s * np.array([1 / 3, 2 / 3])
    first, last = error_ms[time_s < cuts[0]], error_ms[time_s >= cuts[1]]
    if min(first.size, last.size) < FEWEST_IN_A_THIRD + 2:
        return Missing("fatigue", "few-in-a-third", min(first.size, last.size), FEWEST_IN_A_THIRD + 2)
    early_ms, late_ms = _spread_ms(first), _spread_ms(last)
    sd = sqrt((1 + 2 * (4 / 9 + 1 / 36)) / 2 * (1 / (first.size - 2) + 1 / (last.size - 2)))
    ratio = log(late_ms / early_ms)
    early, late = middle_s < cuts[0], middle_s >= cuts[1]
    change, change_ci95 = None, None
    if np.any(early) and np.any(late):
        before, after = (pool(tempo_percent[k], tempo_var[k], scale=SPREAD_PERCENT) for k in (early, late))
        change = round(after.mean - before.mean, 3)
        half = sqrt(sum(((p.ci95[1] - p.ci95[0]) / 2) ** 2 for p in (before, after)))
        change_ci95 = rounded((change - half, change + half))
    return Fatigue(
        spread_first_ms=round(early_ms, 3),
        spread_last_ms=round(late_ms, 3),
        spread_ratio=round(exp(ratio), 3),
        spread_ratio_ci95=size_range(exp(ratio), sd),
        tempo_change_percent=change,
        tempo_change_ci95_percent=change_ci95,
    )


def _spread_ms(error_ms: FloatArray) -> float:
    second = np.diff(error_ms, 2)
    return max(float(np.sqrt(np.mean(second**2) / 6)), 1e-3)
