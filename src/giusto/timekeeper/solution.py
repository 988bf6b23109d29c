"""Clock, place and slots of one take, given the sizes: exact, and linear in notes.

Steps make a tridiagonal precision matrix. It is cut at the ends of the silences, the pieces are
eliminated by LAPACK at once, and a banded system of ends and leans remains:

``lay_out`` → ``Precision`` → ``eliminate`` → ``Pieces`` → ``solve_ends`` → ``Ends`` → ``solve`` → ``Solution``.

In shapes, n is the number of moments, p that of effects (the place, and each slot but the first), and z
that of ends of silences. Times are in ms, precisions in ms⁻². A chain of c copies of a take is solved for as
many sizes at once: each copy is a block of its own, and n and z are then those of all copies.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache, cached_property
from itertools import product
from math import log

import numpy as np
from scipy.linalg import inv
from scipy.linalg.lapack import dpbtrf, dpbtrs, dpttrf, dpttrs

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.timekeeper.take import OPEN_BEATS, Chain, Sizes

LEAN_SD = 10.0  # ours: a lean of 1000 %, which says nothing
HEARD_LEAN_SD = 0.005  # ours: while the click sounds, a lean of half a percent (long series wander)
LEFT, RIGHT, LEAN, DATA = 0, 1, 2, 3  # rows of the right-hand sides; from DATA on, the data and the effects


@dataclass(frozen=True, slots=True)
class Precision:
    """The take as a precision matrix of the clock and of each piece's lean.

    Attributes
    ----------
    diagonal, weight : array of float, shape (n,)
        Of the clock, and what the notes put into it: 1/hand² where one was caught.
    off, keep, taken_back, step_precision : array of float, shape (n − 1,)
        Off the diagonal; the share of the clock's error that a step keeps, the share of the shown error
        that it takes back; 1 over the step's variance.
    lean_left, lean_right, lean_precision : array of float, shape (n − 1,)
        What each step says of its lean, with the moment before, with that after, and by itself.
    log_prior : array of float, shape (c,)
    """

    diagonal: FloatArray
    weight: FloatArray
    off: FloatArray
    keep: FloatArray
    taken_back: FloatArray
    step_precision: FloatArray
    lean_left: FloatArray
    lean_right: FloatArray
    lean_precision: FloatArray
    log_prior: FloatArray


@dataclass(frozen=True, slots=True)
class Pieces:
    """The moments between the ends of silences, eliminated.

    Attributes
    ----------
    inner : array of bool, shape (n,)
        Moments that are no end.
    piece : array of int, shape (n,)
    rows, solved : array of float, shape (3 + 1 + p, n)
        Right-hand sides (left end, right end, lean; data, effects) and their solutions.
    data : array of float, shape (1 + p, n)
        What the notes show, and which effects each has a part in.
    linear : array of float, shape (1 + p, n)
        The data as they pull on the clock, the correction included.
    lean_input : array of float, shape (1 + p, n − 1)
        The same as they pull on the leans.
    pivots, diagonal, off : array of float, shape (n,), (n,) and (n − 1,)
        Of the inner moments, forward; and the matrix that they factorise.
    log_determinant : array of float, shape (c,)
    """

    inner: BoolArray
    piece: IntArray
    rows: FloatArray
    solved: FloatArray
    data: FloatArray
    linear: FloatArray
    lean_input: FloatArray
    pivots: FloatArray
    diagonal: FloatArray
    off: FloatArray
    log_determinant: FloatArray

    @property
    def inner_var(self) -> FloatArray:
        """Variance of each inner moment, its ends known, shape (n,); 0 at the ends."""
        backward = dpttrf(self.diagonal[::-1], self.off[::-1])[0][::-1]
        var = 1 / (self.pivots + backward - self.diagonal)  # from both sides, the moment's own part counted once
        return np.where(self.inner, var, 0.0)


@dataclass(frozen=True, slots=True)
class Ends:
    """The banded system of ends and leans, ordered end, lean, end, lean, …, solved.

    Attributes
    ----------
    solution : array of float, shape (2z − 1, 1 + p)
    factor : array of float, shape (3, 2z − 1)
        Its Cholesky factor.
    information : array of float, shape (c, 1 + p, 1 + p)
        What is left for the effects, the data in the first row and column.
    log_determinant, log_prior : array of float, shape (c,)
    """

    solution: FloatArray
    factor: FloatArray
    information: FloatArray
    log_determinant: FloatArray
    log_prior: FloatArray


def lay_out(take: Chain, sizes: Sequence[Sizes]) -> Precision:
    """Return the precision of clock and leans; sizes for each copy of the take."""
    of_copy = np.array([(one.clock, one.hand_ms, one.alpha) for one in sizes])
    clock, hand_ms, alpha = np.repeat(of_copy.T, take.error_ms.size // take.copies, axis=1)
    start_var = (OPEN_BEATS * take.beat_ms) ** 2
    # A copy begins where it likes, as the first does: nothing is kept of the one before it.
    step_var = np.where(take.apart, start_var, (clock[:-1] * take.interval_ms) ** 2 + take.opened_ms**2)
    shown = (take.on_click & take.caught)[:-1]  # an error that is heard, the hand's part included
    keep = np.where(take.apart, 0.0, np.power(1 - alpha[:-1], take.clicks - shown, dtype=np.float64))
    weight = np.where(take.caught, hand_ms**-2, 0.0)
    diagonal = weight.copy()
    diagonal[0] += 1 / start_var
    diagonal[1:] += 1 / step_var
    diagonal[:-1] += keep**2 / step_var
    leaning_ms = np.where(take.leaning, take.interval_ms, 0.0)
    return Precision(
        diagonal=diagonal,
        weight=weight,
        off=-keep / step_var,
        keep=keep,
        taken_back=np.where(shown, alpha[:-1] * keep, 0.0),
        step_precision=1 / step_var,
        lean_left=keep * leaning_ms / step_var,
        lean_right=-leaning_ms / step_var,
        lean_precision=leaning_ms * leaning_ms / step_var,
        log_prior=-_by_copy(take, np.append(np.log(step_var), log(start_var))).sum(axis=1),
    )


def _by_copy(take: Chain, values: FloatArray) -> FloatArray:
    """Return what lies along the copies, one row a copy: shape (…, n) to (…, c, n / c)."""
    return values.reshape(*values.shape[:-1], take.copies, -1)


def eliminate(take: Chain, laid: Precision) -> Pieces:
    """Solve the inner moments of all pieces for the data, both ends and the lean.

    Raises
    ------
    LinAlgError
        Where the precision is not positive definite; ``reading.analyse`` turns it into one of ours.
    """
    n, ends = take.error_ms.size, take.ends
    inner = np.ones(n, dtype=bool)
    inner[ends] = False
    # With the ends taken out (1 on the diagonal, nothing beside it) the matrix falls into blocks.
    diagonal = np.where(inner, laid.diagonal, 1.0)
    off = np.where(inner[:-1] & inner[1:], laid.off, 0.0)
    pivots, factor, failed = dpttrf(diagonal, off)
    if failed:
        raise np.linalg.LinAlgError("the clock's precision is not positive definite")
    rows = np.zeros((DATA + 2 + int(take.slot.max(initial=0)), n))
    rows[LEFT, 1:] = np.where(inner[:-1], 0.0, laid.off)
    rows[RIGHT, :-1] = np.where(inner[1:], 0.0, laid.off)
    rows[LEAN, :-1] += laid.lean_left
    rows[LEAN, 1:] += laid.lean_right
    data = np.zeros((rows.shape[0] - DATA, n))
    data[0] = np.where(take.caught, take.error_ms, 0.0)
    data[1] = take.caught
    data[1 + take.slot, np.arange(n)] = take.caught
    corrected = laid.taken_back * data[:, :-1] * laid.step_precision  # the correction, known from the notes
    linear = data * laid.weight
    linear[:, 1:] -= corrected
    linear[:, :-1] += laid.keep * corrected
    rows[DATA:] = linear
    rows[:, ends] = 0.0
    return Pieces(
        inner=inner,
        piece=np.searchsorted(ends, np.arange(n), side="right"),
        rows=rows,
        solved=dpttrs(pivots, factor, rows.T)[0].T,
        data=data,
        linear=linear,
        lean_input=np.where(take.leaning, corrected * take.interval_ms, 0.0),
        pivots=pivots,
        diagonal=diagonal,
        off=off,
        log_determinant=_by_copy(take, np.log(pivots)).sum(axis=1),
    )


def solve_ends(take: Chain, laid: Precision, pieces: Pieces) -> Ends:
    """Solve the banded system of ends and leans that the pieces leave."""
    band, target = np.zeros((3, 0)), np.zeros((0, pieces.data.shape[0]))
    solution, factor, log_determinant, log_prior = target, band, pieces.log_determinant, laid.log_prior
    if take.ends.size:
        lean_sd = np.where(take.silence[take.ends[:-1]] >= 0, LEAN_SD, HEARD_LEAN_SD)
        band, target = _band(take, laid, pieces, lean_sd)
        factor, failed = dpbtrf(band, lower=1)
        if failed:
            raise np.linalg.LinAlgError("the system of ends and leans is not positive definite")
        solution = dpbtrs(factor, target, lower=1)[0]
        # Between two copies stands a lean of nothing, whose prior and determinant cancel; after the last none.
        log_determinant = log_determinant + 2 * _by_copy(take, np.append(np.log(factor[0]), 0.0)).sum(axis=1)
        log_prior = log_prior - 2 * _by_copy(take, np.append(np.log(lean_sd), 0.0)).sum(axis=1)
    corrected = laid.taken_back * pieces.data[:, :-1]
    own = _products(take, pieces.data * laid.weight, pieces.data) + _products(
        take, _to_moments(corrected * laid.step_precision), _to_moments(corrected)
    )
    explained = _products(take, pieces.rows[DATA:], pieces.solved[DATA:])
    if take.ends.size:
        explained = explained + _products(take, _to_moments(target.T), _to_moments(solution.T))
    return Ends(solution, factor, own - explained, log_determinant, log_prior)


def _products(take: Chain, left: FloatArray, right: FloatArray) -> FloatArray:
    """Return the products of rows with rows, copy by copy: shapes (r, n) and (s, n) to (c, r, s)."""
    products: FloatArray = _by_copy(take, left).transpose(1, 0, 2) @ _by_copy(take, right).transpose(1, 2, 0)
    return products


def _to_moments(steps: FloatArray) -> FloatArray:
    """Return rows with a 0 after their last: as many as there are moments, or two a lean and an end."""
    return np.concatenate([steps, np.zeros((steps.shape[0], 1))], axis=1)


def _band(take: Chain, laid: Precision, pieces: Pieces, lean_sd: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the band of the system, shape (3, 2z − 1), and its right-hand sides, shape (2z − 1, 1 + p)."""
    ends = take.ends
    band = np.zeros((3, 2 * ends.size - 1))
    target = np.zeros((band.shape[1], pieces.data.shape[0]))
    first = np.concatenate([[0], ends])  # of each piece; its end itself adds nothing
    sums = np.stack([np.add.reduceat(pieces.rows[row] * pieces.solved, first, axis=1) for row in (LEFT, RIGHT, LEAN)])
    between, before = sums[:, :, 1:-1], ends[:-1]
    lean_sum = np.diff(np.concatenate([[0.0], np.cumsum(laid.lean_precision)])[ends])
    band[0, ::2] = laid.diagonal[ends] - sums[LEFT, LEFT, 1:] - sums[RIGHT, RIGHT, :-1]
    band[0, 1::2] = lean_sum + lean_sd**-2 - between[LEAN, LEAN]
    band[1, 0:-1:2] = laid.lean_left[before] - between[LEFT, LEAN]
    band[1, 1::2] = laid.lean_right[ends[1:] - 1] - between[RIGHT, LEAN]
    band[2, 0:-2:2] = np.where(np.diff(ends) == 1, laid.off[before], 0.0) - between[LEFT, RIGHT]
    target[::2] = pieces.linear[:, ends].T - (sums[LEFT, DATA:, 1:] + sums[RIGHT, DATA:, :-1]).T
    # Ends are places between steps: summed from each end up to the next; beyond the outer ones nothing leans.
    leaned = np.add.reduceat(pieces.lean_input, before, axis=1) if ends.size > 1 else pieces.lean_input[:, :0]
    target[1::2] = (leaned - between[LEAN, DATA:]).T
    return band, target


@dataclass(frozen=True)
class Solution:
    """Clock, place and slots of one take, given the sizes.

    Attributes
    ----------
    take : Chain
    sizes : Sizes
    pieces : Pieces
    ends : Ends
    effects : array of float, shape (p,)
        The place, then each other slot's lean, ms.
    effects_cov : array of float, shape (p, p)
    """

    take: Chain
    sizes: Sizes
    pieces: Pieces
    ends: Ends
    effects: FloatArray
    effects_cov: FloatArray

    @cached_property
    def clocks(self) -> FloatArray:
        """The clock at every moment for the data and for each effect, shape (1 + p, n)."""
        clocks: FloatArray = self.pieces.solved[DATA:].copy()
        if not self.take.ends.size:
            return clocks
        solution = self.ends.solution
        none = np.zeros((clocks.shape[0], 1))  # beyond the outer ends
        ends, leans = solution[::2].T, solution[1::2].T
        of_pieces = (np.hstack([none, ends]), np.hstack([ends, none]), np.hstack([none, leans, none]))
        for row, values in enumerate(of_pieces):
            clocks -= self.pieces.solved[row] * values[:, self.pieces.piece]
        clocks[:, self.take.ends] = ends
        return clocks

    @property
    def clock(self) -> FloatArray:
        """The clock at every moment, against the player's place, shape (n,)."""
        clock: FloatArray = self.clocks[0] - self.effects @ self.clocks[1:]
        return clock

    def clock_var(self) -> FloatArray:
        """Return the variance of the clock at every moment, the place's uncertainty included."""
        var = self.pieces.inner_var
        if self.take.ends.size:
            triples, solved = self._piece_cov(self._ends_cov), self.pieces.solved
            for i, j in product((LEFT, RIGHT, LEAN), repeat=2):
                var += triples[self.pieces.piece, i, j] * solved[i] * solved[j]
            var[self.take.ends] = self._ends_cov[0, ::2]
        return var + _quadratic(self.clocks[1:], self.effects_cov)

    def drift(self, start: IntArray, end: IntArray) -> tuple[FloatArray, FloatArray]:
        """Return what the clock gained from each start to each end, and its variance."""
        if not start.size:
            return np.empty(0), np.empty(0)
        cov = self._ends_cov
        at = 2 * np.searchsorted(self.take.ends, start)
        var = cov[0, at] + cov[0, at + 2] - 2 * cov[2, at]
        var = var + _quadratic(self.clocks[1:, end] - self.clocks[1:, start], self.effects_cov)
        return self.clock[end] - self.clock[start], var

    def leans(self, start: IntArray) -> tuple[FloatArray, FloatArray]:
        """Return the lean of the silences that start there, and its variance; late is positive.

        The lean is what the clock was set to: its range holds the clock's own noise, where that of the
        drift does not.
        """
        if not start.size:
            return np.empty(0), np.empty(0)
        at = 2 * np.searchsorted(self.take.ends, start) + 1
        shared = self.ends.solution[at, 1:].T
        lean = self.ends.solution[at, 0] - self.effects @ shared
        return lean, self._ends_cov[0, at] + _quadratic(shared, self.effects_cov)

    @cached_property
    def _ends_cov(self) -> FloatArray:
        """The band of the covariance of ends and leans, shape (3, 2z − 1)."""
        return banded_inverse(self.ends.factor)

    def _piece_cov(self, cov: FloatArray) -> FloatArray:
        """Return the covariance of (left end, right end, lean) for each piece, shape (z + 1, 3, 3)."""
        triples = np.zeros((self.take.ends.size + 1, 3, 3))
        triples[1:, LEFT, LEFT] = cov[0, ::2]
        triples[:-1, RIGHT, RIGHT] = cov[0, ::2]
        inner = triples[1:-1]
        inner[:, LEAN, LEAN] = cov[0, 1::2]
        inner[:, LEFT, RIGHT] = inner[:, RIGHT, LEFT] = cov[2, 0:-2:2]
        inner[:, LEFT, LEAN] = inner[:, LEAN, LEFT] = cov[1, 0:-1:2]
        inner[:, RIGHT, LEAN] = inner[:, LEAN, RIGHT] = cov[1, 1::2]
        return triples


def solve(take: Chain, sizes: Sizes) -> Solution:
    """Return clock, place and slots of a take, by generalised least squares.

    Parameters
    ----------
    take : Chain
        At least one note caught, and one in each slot that it numbers.
    sizes : Sizes
    """
    laid = lay_out(take, [sizes])
    pieces = eliminate(take, laid)
    ends = solve_ends(take, laid, pieces)
    effects_cov = inv(ends.information[0, 1:, 1:])
    return Solution(take, sizes, pieces, ends, effects_cov @ ends.information[0, 1:, 0], effects_cov)


Likelihoods = Callable[[Sequence[Sizes]], FloatArray]


def likelihoods_of(take: Chain) -> Likelihoods:
    """Return a function from sizes to the log likelihood of each, up to a constant; all are solved at once."""
    times = cache(take.times)  # a search asks for as many again and again

    def of(sizes: Sequence[Sizes]) -> FloatArray:
        return _log_likelihoods(times(len(sizes)), sizes)

    return of


def _log_likelihoods(copies: Chain, sizes: Sequence[Sizes]) -> FloatArray:
    laid = lay_out(copies, sizes)
    ends = solve_ends(copies, laid, eliminate(copies, laid))
    x_precision, x_data = ends.information[:, 1:, 1:], ends.information[:, 1:, 0]
    effects = np.linalg.solve(x_precision, x_data[:, :, None])[:, :, 0]
    left = ends.information[:, 0, 0] - np.sum(x_data * effects, axis=1)
    notes = _by_copy(copies, copies.caught.astype(np.float64)).sum(axis=1)
    hand = np.log([one.hand_ms for one in sizes])
    likelihoods: FloatArray = 0.5 * (
        ends.log_prior - 2 * notes * hand - ends.log_determinant - np.linalg.slogdet(x_precision)[1] - left
    )
    return likelihoods


def _quadratic(shared: FloatArray, cov: FloatArray) -> FloatArray:
    form: FloatArray = np.sum(shared * (cov @ shared), axis=0)
    return form


def banded_inverse(factor: FloatArray) -> FloatArray:
    """Return the band of ``(L Lᵀ)⁻¹`` for a lower Cholesky factor of bandwidth 2.

    Parameters
    ----------
    factor : array of float, shape (3, n)
        As ``scipy.linalg.cholesky_banded(..., lower=True)`` returns it.

    Returns
    -------
    array of float, shape (3, n)
        Row d holds the entries (i + d, i).

    References
    ----------
    Takahashi, Fagan & Chen 1973, the recursion for a sparse inverse (from memory).
    """
    n = factor.shape[1]
    diagonal, first, second = (row.tolist() for row in factor)
    v0, v1, v2 = ([0.0] * (n + 2) for _ in range(3))
    for i in range(n - 1, -1, -1):
        pivot = diagonal[i]
        a, b = (first[i] if i + 1 < n else 0.0) / pivot, (second[i] if i + 2 < n else 0.0) / pivot
        v2[i] = -a * v1[i + 1] - b * v0[i + 2]
        v1[i] = -a * v0[i + 1] - b * v1[i + 1]
        v0[i] = 1 / pivot**2 - a * v1[i] - b * v2[i]
    return np.array([v0[:n], v1[:n], v2[:n]])
