"""Each hand by itself, or each of some instruments: how even it is, and where it comes against the others.

Which hand struck is told by what made the note: another key, another pad.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log, sqrt

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy.special import stdtrit

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.ranges import Range, rounded

FEWEST = 12  # ours: notes of a hand
MOST_HANDS, MOSTLY = 4, 0.9  # ours: more are pitches of a melody; share of the notes that the hands have together
BLOCKS = 10  # ours: parts of the take that are left out one by one
WIDER = 1.1  # ours: ranges of so few parts are a tenth too narrow, by simulated hands (tests)
ROUNDS = 3
LEAST_MS = 0.05  # ours: no hand is told more even than this


@dataclass(frozen=True, slots=True)
class Hand:
    """One hand, or instrument, as ``reading/1`` writes it; late is positive.

    Attributes
    ----------
    name : str
        What made its notes.
    n : int
    lean_ms, ci95_ms : float, (float, float)
        Where its notes come against those of the others.
    spread_ms, spread_ci95_ms : float, (float, float)
        Standard deviation of its notes about the player's clock, the lean of each place in the beat taken off.
    """

    name: str
    n: int
    lean_ms: float
    ci95_ms: Range
    spread_ms: float
    spread_ci95_ms: Range


@dataclass(frozen=True, slots=True)
class Struck:
    """The caught notes of a take, in order.

    Attributes
    ----------
    made_by : array of str, shape (n,)
        ``""`` where that is not known.
    error_ms, own_ms : array of float, shape (n,)
        Against what was asked, with and without the lean of a note's place in the beat.
    time_ms : array of float, shape (n,)
        When each was asked.
    follows : array of bool, shape (n,)
        Whether nothing lies between a note and the one before it: no return to the click, no note that was missed.
    clock : float
        Standard deviation of the clock's steps, as a share of their length.
    """

    made_by: NDArray[np.str_]
    error_ms: FloatArray
    own_ms: FloatArray
    time_ms: FloatArray
    follows: BoolArray
    clock: float


def hands(take: Struck) -> list[Hand] | None:
    """Return each hand of a take, those of most notes first; None where one alone played, or too little is known.

    Notes
    -----
    A note is set against the line between its neighbours, which the clock hardly leaves: what is left is its own hand's
    error, less the shares of its neighbours' hands. The leans of hands are found from that by least squares, their
    variances from its squares, each by how much it scatters, less what the clock's steps add. Ranges are Student's,
    from leaving out a tenth of the take at a time (the jackknife; Tukey 1958, from memory), of a spread for its
    logarithm. Where hands take turns, the lean of a hand is that of its places.
    """
    names, counts = np.unique(take.made_by[take.made_by != ""], return_counts=True)
    order = np.argsort(-counts, kind="stable")
    chosen = [str(names[k]) for k in order if counts[k] >= FEWEST]
    which = np.isin(take.made_by, chosen)
    if not 2 <= len(chosen) <= MOST_HANDS or np.count_nonzero(which) < MOSTLY * which.size:
        return None
    of_hand = np.array([chosen.index(name) if name in chosen else -1 for name in take.made_by.tolist()])
    middles = np.flatnonzero(take.follows[1:-1] & take.follows[2:]) + 1
    middles = middles[(of_hand[middles - 1] >= 0) & (of_hand[middles] >= 0) & (of_hand[middles + 1] >= 0)]
    if middles.size < BLOCKS * len(chosen):
        return None
    return _told(take, of_hand, middles, chosen)


def _told(take: Struck, of_hand: IntArray, middles: IntArray, names: list[str]) -> list[Hand] | None:
    whole = _sizes(take, of_hand, middles, len(names))
    without = [
        _sizes(take, of_hand, np.setdiff1d(middles, part, assume_unique=True), len(names))
        for part in np.array_split(middles, BLOCKS)
    ]
    if whole is None or any(one is None for one in without):
        return None
    leans, spreads = whole
    half = WIDER * float(stdtrit(BLOCKS - 1, 0.975)) * sqrt((BLOCKS - 1) / BLOCKS)
    leans_of = np.array([one[0] for one in without if one])
    logs_of = np.log([one[1] for one in without if one])
    lean_half = half * np.sqrt(np.sum((leans_of - leans_of.mean(axis=0)) ** 2, axis=0))
    log_half = half * np.sqrt(np.sum((logs_of - logs_of.mean(axis=0)) ** 2, axis=0))
    return [
        Hand(
            name=name,
            n=int(np.count_nonzero(of_hand == k)),
            lean_ms=round(float(leans[k]), 3),
            ci95_ms=rounded((leans[k] - lean_half[k], leans[k] + lean_half[k])),
            spread_ms=round(float(spreads[k]), 3),
            spread_ci95_ms=rounded((exp(log(spreads[k]) - log_half[k]), exp(log(spreads[k]) + log_half[k]))),
        )
        for k, name in enumerate(names)
    ]


def _sizes(take: Struck, of_hand: IntArray, middles: IntArray, count: int) -> tuple[FloatArray, FloatArray] | None:
    """Return each hand's lean against the others and its spread, shape (hands,) each; None where some can't be told."""
    before_ms, after_ms = (np.diff(take.time_ms)[middles - 1], np.diff(take.time_ms)[middles])
    share = after_ms / (before_ms + after_ms)  # of the note before, in the line between both
    shares = np.zeros((middles.size, count))
    squares = np.zeros((middles.size, count))
    rows = np.arange(middles.size)
    for at, weight in ((middles - 1, -share), (middles, np.ones(middles.size)), (middles + 1, share - 1)):
        shares[rows, of_hand[at]] += weight
        squares[rows, of_hand[at]] += weight**2

    def off(ms: FloatArray) -> FloatArray:
        return ms[middles] - share * ms[middles - 1] - (1 - share) * ms[middles + 1]

    clock_var = take.clock**2 * ((before_ms * share) ** 2 + (after_ms * (1 - share)) ** 2)
    if np.linalg.matrix_rank(squares) < count or np.linalg.matrix_rank(shares) < count - 1:
        return None
    at_ms = np.linalg.lstsq(shares, off(take.error_ms), rcond=None)[0]  # but for one number that all share
    own_ms = off(take.own_ms)
    left_ms = own_ms - shares @ np.linalg.lstsq(shares, own_ms, rcond=None)[0]
    variances = scipy.optimize.nnls(squares, left_ms**2 - clock_var)[0]
    for _ in range(ROUNDS):  # squares scatter as the variances that they show do
        weight = 1 / np.maximum(squares @ variances + clock_var, LEAST_MS**2)
        variances = scipy.optimize.nnls(squares * weight[:, None], (left_ms**2 - clock_var) * weight)[0]
    leans = at_ms - (at_ms.sum() - at_ms) / (count - 1)
    return leans, np.maximum(np.sqrt(variances), LEAST_MS)
