"""Where in a silence the drift came: at once, steadily, or growing."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import sqrt

import numpy as np

from giusto.arrays import FloatArray
from giusto.figures.silence import Came
from giusto.missing import Missing
from giusto.pooling import pool
from giusto.ranges import Z95, Range, rounded, sd_of, student

FEWEST_IN_A_SILENCE = 6  # ours: notes of a silence, for a bend to be told from a slope
BEND_SPREAD_MS = 10.0  # ours, weak: how far the bends of one take's silences differ in truth
FEWEST_JUMPS = 4  # ours: silences, for jumps to be told from the clock's noise
JUMP_SHARE = 0.5  # ours: of the drift; if more was there with the first notes alone, it came at once
STEADY_SHARE = 0.25  # ours: a bend this small beside the drift leaves the way straight


@dataclass(frozen=True, slots=True)
class Bend:
    """How far the clock's way through one silence leaves the straight one at its middle, and its variance.

    Late is positive: with a late drift, a bend below 0 sags (most of it still to come), one above 0
    bulges (most of it came early). ``jump_ms`` is how far the straight way begins from where the clock stood
    at the silence's first click.
    """

    bend_ms: float
    variance: float
    jump_ms: float = 0.0

    @property
    def sd_ms(self) -> float:
        """Standard deviation of the bend."""
        return sqrt(self.variance)


@dataclass(frozen=True, slots=True)
class DriftShape:
    """The bend that a take's silences share, turned so that positive came early, and what it allows to say."""

    bend_ms: float
    ci95_ms: Range
    silences: int
    way: Came | None


def bend(
    error_ms: FloatArray,
    time_ms: FloatArray,
    *,
    clock: float,
    hand_ms: float,
    start: tuple[float, float] | None = None,
) -> Bend | None:
    """Return the bend of one silence, or None for too few notes.

    Parameters
    ----------
    error_ms : array of float, shape (n,)
        The player's error at each caught note, the slots' leans taken off.
    time_ms : array of float, shape (n,)
        When the notes were asked, ascending.
    clock : float
        Standard deviation of a step as a share of it.
    hand_ms : float
    start : (float, float), optional
        When the silence began, and where the clock stood then; in ms.

    Returns
    -------
    Bend or None

    Notes
    -----
    A contrast Σ w·error with Σ w = 0 and Σ w·t = 0: what a parabola has left when the straight line is
    taken off it. Its variance under the two-level model is exact: Σ w²·hand² for the hand, and for
    each step of the clock the square of the weights still to come times the step's variance.

    Examples
    --------
    >>> t = np.arange(9.0) * 500
    >>> round(bend(-(t / 1000 - 2) ** 2 + 4, t, clock=0.02, hand_ms=8.0).bend_ms, 3)
    4.0
    """
    if error_ms.size < FEWEST_IN_A_SILENCE:
        return None
    u = (time_ms - time_ms[0]) / (time_ms[-1] - time_ms[0])
    parabola = 4 * u * (1 - u)  # 0 at both ends, 1 at the middle
    from_mean = u - u.mean()
    tilt = from_mean / float(from_mean @ from_mean)  # what of a series is its straight line's slope
    rest = parabola - parabola.mean() - float(tilt @ parabola) * from_mean
    weight = rest / float(rest @ parabola)
    found = Bend(float(weight @ error_ms), _contrast_var(weight, time_ms, clock, hand_ms))
    if start is None:
        return found
    start_ms, stood_ms = start
    back = (start_ms - time_ms[0]) / (time_ms[-1] - time_ms[0])
    at_start_ms = error_ms.mean() + (back - u.mean()) * (tilt @ error_ms)  # the straight way, at its first click
    return replace(found, jump_ms=float(at_start_ms) - stood_ms)


def _contrast_var(weight: FloatArray, time_ms: FloatArray, clock: float, hand_ms: float) -> float:
    """Return the variance of Σ w·error under the two-level model, the clock known at the first note."""
    to_come = np.cumsum(weight[::-1])[::-1][1:]
    step_var = (clock * np.diff(time_ms)) ** 2
    return hand_ms**2 * float(weight @ weight) + float(to_come**2 @ step_var)


def came(bend_ms: float, bend_sd_ms: float, drift_ms: float) -> Came | None:
    """Return how a drift came, where the bend's range allows to say.

    Examples
    --------
    >>> came(20.0, 4.0, 80.0), came(-20.0, 4.0, 80.0), came(20.0, 4.0, -80.0)
    ('at once', 'growing', 'growing')
    >>> came(2.0, 5.0, 80.0), came(12.0, 9.0, 80.0)
    ('steadily', None)
    """
    early = bend_ms if drift_ms > 0 else -bend_ms
    low, high = early - Z95 * bend_sd_ms, early + Z95 * bend_sd_ms
    if low > 0:
        return "at once"
    if high < 0:
        return "growing"
    return "steadily" if max(-low, high) <= STEADY_SHARE * abs(drift_ms) else None


def drift_shape(bends: list[Bend], drifts_ms: list[float]) -> DriftShape | Missing:
    """Return how the drift came over a take's silences, or why it can't be said.

    Parameters
    ----------
    bends : list of Bend
    drifts_ms : list of float
        The drift of the same silences.
    """
    if not bends:
        return Missing("course", "few-bends")
    drift_ms = sum(drifts_ms) / len(drifts_ms)
    turn = 1 if drift_ms > 0 else -1
    pooled = pool([turn * b.bend_ms for b in bends], [b.variance for b in bends], scale=BEND_SPREAD_MS)
    way = came(turn * pooled.mean, sd_of(pooled.ci95), drift_ms)
    if _jumped(np.array([turn * b.jump_ms for b in bends]), np.array(drifts_ms) * turn):
        way = "at once"
    return DriftShape(round(pooled.mean, 3), rounded(pooled.ci95), len(bends), way)


def _jumped(jumps_ms: FloatArray, drifts_ms: FloatArray) -> bool:
    """Whether, silence after silence, more than half of the drift was there with the first notes alone.

    By Student's range over the silences themselves: a leap makes the model's clock look loose, and its own
    range of a jump wide.
    """
    if jumps_ms.size < FEWEST_JUMPS:
        return False
    beyond = jumps_ms - JUMP_SHARE * drifts_ms
    half = student(beyond.size) * float(np.std(beyond, ddof=1)) / sqrt(beyond.size)
    return float(beyond.mean()) - half > 0
