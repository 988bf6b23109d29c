"""Clock, place and slots of one take, given the sizes: exact, and linear in notes.

Steps make a tridiagonal precision matrix. It is cut at the ends of the silences, the pieces are
eliminated by LAPACK at once, and a banded system of ends and leans remains.
"""

from __future__ import annotations

from functools import cached_property
from itertools import product
from math import log

import numpy as np
from scipy.linalg import cho_solve_banded, cholesky_banded
from scipy.linalg.lapack import dpttrf, dpttrs

from giusto.arrays import FloatArray, IntArray
from giusto.chain import OPEN_BEATS, Chain, Sizes

LEAN_SD = 10.0  # ours: a lean of 1000 %, which says nothing
HEARD_LEAN_SD = 0.005  # ours: while the click sounds, a lean of half a percent (long series wander)


class Solution:
    """Clock, place and slots of one take, given the sizes.

    Pieces between the ends of silences are eliminated at once: with the ends taken out, the
    tridiagonal matrix falls into independent blocks that share one LAPACK call.
    """

    def __init__(self, take: Chain, sizes: Sizes) -> None:
        self.take, self.sizes = take, sizes
        self._precision()
        self._eliminate()
        self._solve_ends()
        self._estimate_effects()

    def _precision(self) -> None:
        """Lay out the precision of the clock (diagonal, off) and of the leans (cross terms)."""
        take, sizes = self.take, self.sizes
        start_var = (OPEN_BEATS * take.beat_ms) ** 2
        step_var = (sizes.clock * take.interval_ms) ** 2 + take.opened_ms**2
        shown = (take.on_click & take.caught)[:-1]  # an error that is heard, the hand's part included
        keep = (1 - sizes.alpha) ** (take.clicks - shown)
        self.taken_back = np.where(shown, sizes.alpha * keep, 0.0)
        self.keep, self.step_precision = keep, 1 / step_var
        gained = take.interval_ms
        weight = np.where(take.caught, sizes.hand_ms**-2, 0.0)
        diagonal = weight.copy()
        diagonal[0] += 1 / start_var
        diagonal[1:] += 1 / step_var
        diagonal[:-1] += keep**2 / step_var
        self.weight, self.diagonal, self.off = weight, diagonal, -keep / step_var
        self.lean_left, self.lean_right = keep * gained / step_var, -gained / step_var
        self.lean_precision = gained**2 / step_var
        self.log_prior = -float(np.log(step_var).sum()) - log(start_var)

    def _eliminate(self) -> None:
        """Solve the inner moments of all pieces for the data, both ends and the lean."""
        take, ends = self.take, self.take.ends
        n = take.error_ms.size
        self.inner = np.ones(n, dtype=bool)
        self.inner[ends] = False
        self.piece = np.searchsorted(ends, np.arange(n), side="right")  # of each inner moment
        step_inner = self.inner[:-1] & self.inner[1:]
        diagonal = np.where(self.inner, self.diagonal, 1.0)
        pivots, factor, info = dpttrf(diagonal, np.where(step_inner, self.off, 0.0))
        if info:
            raise np.linalg.LinAlgError("the clock's precision is not positive definite")
        p = 1 + int(take.slot.max(initial=0))
        rows = np.zeros((3 + 1 + p, n))  # right-hand sides: left end, right end, lean; data, effects
        left, right, lean, data = rows[0], rows[1], rows[2], rows[3:]
        left[1:] = np.where(self.inner[:-1], 0.0, self.off)
        right[:-1] = np.where(self.inner[1:], 0.0, self.off)
        lean[:-1] += self.lean_left
        lean[1:] += self.lean_right
        data[0] = np.where(take.caught, take.error_ms, 0.0)
        data[1] = take.caught
        data[1 + take.slot, np.arange(n)] = take.caught
        self.data = data.copy()
        data *= self.weight
        input_ = self.taken_back * self.data[:, :-1] * self.step_precision  # the correction, known from the notes
        data[:, 1:] -= input_
        data[:, :-1] += self.keep * input_
        self.linear, self.lean_input = data.copy(), input_ * take.interval_ms
        rows[:, take.ends] = 0.0
        self.rows = rows
        self.solved = dpttrs(pivots, factor, rows.T)[0].T
        self.log_posterior = float(np.log(pivots).sum())
        backward = dpttrf(diagonal[::-1], np.where(step_inner, self.off, 0.0)[::-1])[0][::-1]
        self.inner_var = 1 / (pivots + backward - diagonal)

    def _solve_ends(self) -> None:
        """Solve the banded system of ends and leans, ordered end, lean, end, lean, ..."""
        take, ends = self.take, self.take.ends
        z = ends.size
        first = np.concatenate([[0], ends])  # of each piece; its end itself adds nothing
        sums = np.stack([np.add.reduceat(self.rows[row] * self.solved, first, axis=1) for row in range(3)])
        band = np.zeros((3, max(2 * z - 1, 0)))
        target = np.zeros((band.shape[1], self.data.shape[0]))
        self.at_ends = target
        if z:
            between = sums[:, :, 1:-1]
            band[0, ::2] = self.diagonal[ends] - sums[0, 0, 1:] - sums[1, 1, :-1]
            lean_sum = np.diff(np.concatenate([[0.0], np.cumsum(self.lean_precision)])[ends])
            lean_sd = np.where(take.silence[ends[:-1]] >= 0, LEAN_SD, HEARD_LEAN_SD)
            band[0, 1::2] = lean_sum + lean_sd**-2 - between[2, 2]
            adjacent = np.diff(ends) == 1
            direct = ends[:-1]
            band[1, 0:-1:2] = self.lean_left[direct] - between[0, 2]
            band[1, 1::2] = self.lean_right[ends[1:] - 1] - between[1, 2]
            band[2, 0:-2:2] = np.where(adjacent, self.off[direct], 0.0) - between[0, 1]
            target[::2] = self.linear[:, ends].T
            target[::2] -= (sums[0, 3:, 1:] + sums[1, 3:, :-1]).T
            leans = np.diff(np.cumsum(np.pad(self.lean_input, ((0, 0), (1, 0))), axis=1)[:, ends], axis=1)
            target[1::2] = (leans - between[2, 3:]).T
            self.factor = cholesky_banded(band, lower=True)
            self.log_posterior += 2 * float(np.log(self.factor[0]).sum())
            self.log_prior -= 2 * float(np.log(lean_sd).sum())
            self.at_ends = cho_solve_banded((self.factor, True), target)
        explained = self.rows[3:] @ self.solved[3:].T + target.T @ self.at_ends
        corrected = self.taken_back * self.data[:, :-1]
        own = (self.data * self.weight) @ self.data.T + (corrected * self.step_precision) @ corrected.T
        self.information = own - explained

    @cached_property
    def clocks(self) -> FloatArray:
        """The clock at every moment for the data and for each effect, shape (1 + effects, n)."""
        clocks: FloatArray = self.solved[3:].copy()
        solution = self.at_ends
        if not self.take.ends.size:
            return clocks
        for row, values in enumerate(self._of_pieces(solution[::2].T, solution[1::2].T)):
            clocks -= self.solved[row] * values[:, self.piece]
        clocks[:, self.take.ends] = solution[::2].T
        return clocks

    @staticmethod
    def _of_pieces(ends: FloatArray, leans: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Return the left end, right end and lean of each piece; nothing beyond the outer ends."""
        none = np.zeros((ends.shape[0], 1))
        return (
            np.concatenate([none, ends], axis=1),
            np.concatenate([ends, none], axis=1),
            np.concatenate([none, leans, none], axis=1),
        )

    def _estimate_effects(self) -> None:
        """Estimate place and slots by generalised least squares, and the likelihood of the sizes."""
        x_precision, x_data = self.information[1:, 1:], self.information[1:, 0]
        self.effects_cov = np.linalg.inv(x_precision)
        self.effects = self.effects_cov @ x_data
        caught = int(np.count_nonzero(self.take.caught))
        self.log_likelihood = 0.5 * (
            -2 * caught * log(self.sizes.hand_ms)
            + self.log_prior
            - self.log_posterior
            - float(np.linalg.slogdet(x_precision)[1])
            - float(self.information[0, 0] - x_data @ self.effects)
        )

    @property
    def clock(self) -> FloatArray:
        """The clock at every moment, against the player's place, shape (n,)."""
        clock: FloatArray = self.clocks[0] - self.effects @ self.clocks[1:]
        return clock

    def clock_var(self) -> FloatArray:
        """Return the variance of the clock at every moment, the place's uncertainty included."""
        var = np.where(self.inner, self.inner_var, 0.0)
        ends = self.take.ends
        if ends.size:
            cov = self._ends_cov
            triples = self._piece_cov(cov)
            for i, j in product(range(3), repeat=2):
                var += triples[self.piece, i, j] * self.solved[i] * self.solved[j]
            var[ends] = cov[0, ::2]
        return var + _quadratic(self.clocks[1:], self.effects_cov)

    def drift(self, start: IntArray, end: IntArray) -> tuple[FloatArray, FloatArray]:
        """Return what the clock gained from each start to each end, and its variance."""
        if not start.size:
            return np.empty(0), np.empty(0)
        cov = self._ends_cov
        at = np.searchsorted(self.take.ends, start)
        var = cov[0, 2 * at] + cov[0, 2 * at + 2] - 2 * cov[2, 2 * at]
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
        shared = self.at_ends[at, 1:].T
        lean = self.at_ends[at, 0] - self.effects @ shared
        return lean, self._ends_cov[0, at] + _quadratic(shared, self.effects_cov)

    @cached_property
    def _ends_cov(self) -> FloatArray:
        """The band of the covariance of ends and leans, shape (3, 2z − 1)."""
        return banded_inverse(self.factor)

    def _piece_cov(self, cov: FloatArray) -> FloatArray:
        """Return the covariance of (left end, right end, lean) for each piece."""
        z = self.take.ends.size
        triples = np.zeros((z + 1, 3, 3))
        triples[1:, 0, 0] = cov[0, ::2]
        triples[:-1, 1, 1] = cov[0, ::2]
        inner = triples[1:-1]
        inner[:, 2, 2] = cov[0, 1::2]
        inner[:, 0, 1] = inner[:, 1, 0] = cov[2, 0:-2:2]
        inner[:, 0, 2] = inner[:, 2, 0] = cov[1, 0:-1:2]
        inner[:, 1, 2] = inner[:, 2, 1] = cov[1, 1::2]
        return triples


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
