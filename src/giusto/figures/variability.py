"""Clock and hand: how much of a player's unevenness comes from where.

From the silent stretches alone, since a heard click corrects the clock. The two-level model makes
the clock's noise stay and the hand's go with the next note; few notes can't tell the two apart.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, hypot, sqrt

import numpy as np

from giusto.arrays import BoolArray, FloatArray
from giusto.missing import Missing
from giusto.ranges import Range, size_range
from giusto.timekeeper.excerpt import excerpt
from giusto.timekeeper.mode import find_mode
from giusto.timekeeper.prior import WEAK, Prior, share_of
from giusto.timekeeper.solution import likelihoods_of
from giusto.timekeeper.take import Chain, Sizes, joined

FEWEST_ALONE = 24  # ours: notes in silences; fewer intervals can't separate two sizes (REFERENCES below)
WIDER = 1.03  # ours: a skewed posterior's range over the normal one's, by ./giusto bench
VAGUEST = 0.45  # ours: posterior SD of a log size; the priors' own are .7 and .6


@dataclass(frozen=True, slots=True)
class Variability:
    """The two parts of a player's unevenness, as ``reading/1`` writes them, with their ranges.

    Attributes
    ----------
    interval_sd_ms : float
        Of one interval between neighbouring notes, lean taken off: √(clock² + 2 hand²).
    clock_sd_ms, motor_sd_ms : float
    clock_ci95_ms, motor_ci95_ms : (float, float)
    cv_percent : float
        The interval's standard deviation in percent of the interval.
    """

    interval_sd_ms: float
    clock_sd_ms: float
    motor_sd_ms: float
    cv_percent: float
    clock_ci95_ms: Range | None = None
    motor_ci95_ms: Range | None = None


def variability(take: Chain, alone: BoolArray, prior: Prior = WEAK) -> Variability | Missing:
    """Return clock and hand parts, or why the take can't tell them apart.

    Parameters
    ----------
    take : Chain
    alone : array of bool, shape (n,)
        Moments that belong to a silence, both its ends included.
    prior : Prior
        What is known of the sizes beforehand.

    Returns
    -------
    Variability or Missing

    Notes
    -----
    The likelihood of the silences' notes under the state-space form of the two-level model, with the
    priors of ``timekeeper.prior``; a range is ±1.96 posterior standard deviations of the logarithm, a tenth wider.

    References
    ----------
    Wing & Kristofferson 1973, Percept Psychophys 14:5–12 (from memory). With 16 intervals the
    standard errors of clock and hand are about a third of them (our closed form, see docs/method.md).
    """
    notes = np.flatnonzero(take.caught & alone)
    if notes.size < FEWEST_ALONE:
        return Missing("variability", "few-silence-notes", notes.size, FEWEST_ALONE)
    likelihoods = likelihoods_of(excerpt(_apart(take, alone)))
    alpha = share_of(prior.centre[2])  # no note in these pieces is followed by a correction

    def costs(free: FloatArray) -> FloatArray:
        sizes = [Sizes(clock=exp(clock), hand_ms=exp(hand), alpha=alpha) for clock, hand in free.tolist()]
        return prior.costs(free) - likelihoods(sizes)

    mode = find_mode(costs, prior.centre[:2], prior.low[:2], prior.high[:2])
    if not mode.found:
        return Missing("variability", "not-found")
    if mode.sd.max() > VAGUEST:
        return Missing("variability", "vague-sizes")
    time_ms = np.concatenate([[0.0], np.cumsum(take.interval_ms)])
    interval_ms = float(np.median(np.diff(time_ms[notes])))
    clock = exp(mode.at[0]) * interval_ms
    hand = exp(mode.at[1])
    total = hypot(clock, sqrt(2) * hand)
    return Variability(
        interval_sd_ms=round(total, 3),
        clock_sd_ms=round(clock, 3),
        clock_ci95_ms=size_range(clock, float(mode.sd[0]), wider=WIDER),
        motor_sd_ms=round(hand, 3),
        motor_ci95_ms=size_range(hand, float(mode.sd[1]), wider=WIDER),
        cv_percent=round(100 * total / interval_ms, 3),
    )


def _apart(take: Chain, alone: BoolArray) -> Chain:
    """Return the silences as pieces of their own, so that nothing is assumed of what a click takes back between them.

    The note at the click before a silence is left out: the step from it is corrected by a share that is not known here.
    """
    steps = take.silence
    starts = np.flatnonzero((steps >= 0) & (np.diff(steps, prepend=-1) != 0))
    pieces = []
    for first in starts.tolist():
        last = first + int(np.argmin(np.append(steps[first:] == steps[first], False)))
        piece = take.between(first, last)
        pieces.append(piece.only(np.arange(piece.error_ms.size) > 0))
    return joined(pieces) if pieces else take.only(alone)
