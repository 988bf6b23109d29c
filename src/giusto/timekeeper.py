"""Clock and hand apart: the two-level timekeeper as a state-space smoother.

Model, in milliseconds. ``D[k]`` is the clock's error against the grid less the player's place:

- a step: ``D[k+1] = (1 − α)^clicks · D[k] + lean · interval + N(0, (cv · interval)²)``, with a lean
  of its own for each silence and none while the click sounds;
- a note: ``played − asked = D[k] + place + slot's lean + N(0, hand²)``.

The step after a return into the click is left open (its spread is a quarter of a beat): what the
player does there, on hearing the error, must not colour what is said of the silence before it.

All unknowns are Gaussian given the three sizes (cv, hand, α), so the estimates are those of
generalised least squares and exact. Steps make a tridiagonal precision matrix; it is cut at the
ends of the silences, the pieces are eliminated by LAPACK, and a small banded system remains: the
cost is linear in notes. The sizes are integrated over, so that ranges include not knowing them.

References
----------
Wing & Kristofferson 1973, Percept Psychophys 14:5–12 (the model; from memory). Vorberg & Schulze
2002, J Math Psych 46:56 (linear phase correction; from memory). Rue, Martino & Chopin 2009, J R
Stat Soc B 71:319 (integrating over few sizes of a Gaussian model; from memory).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations, product
from math import exp, log

import numpy as np
from scipy.linalg import cho_solve_banded, cholesky_banded
from scipy.linalg.lapack import dpttrf, dpttrs

from giusto.schedule import IntArray
from giusto.timeline import BoolArray, FloatArray, Timeline

LEAN_SD = 10.0  # ours: a lean of 1000 %, which says nothing
START_SD_BEATS = 0.25  # ours: where the clock may start, and restart after a return
EXCERPT, EXCERPTS = 1500, 3  # ours: a longer take is sized from three stretches of 1,500 moments
NEWTON_STEPS, NEWTON_CLOSE = 12, 0.02  # ours: a fiftieth of a log unit, far inside the posterior
FLATTEST = 0.5  # ours: curvature below which an axis is taken for this flat; the priors' is 1 to 3
MIN_NOTES = 4  # ours: fewer caught notes say nothing of three sizes

# Weak priors on the sizes: median, and standard deviation of the logarithm (log odds for alpha).
# From memory: clock 1–4 % and hand 5–10 ms (Wing & Kristofferson 1973; Semjen, Schulze & Vorberg
# 2000, Psychol Res 63:137), alpha .2–.8 (Vorberg & Schulze 2002). The spreads are ours.
CLOCK_PRIOR = (0.018, 0.7)
HAND_PRIOR_MS = (8.0, 0.6)
ALPHA_PRIOR = (0.4, 1.0)


@dataclass(frozen=True, slots=True)
class Sizes:
    """The sizes of a player's noise: clock as a share of the interval, hand in ms, correction."""

    clock: float
    hand_ms: float
    alpha: float


@dataclass(frozen=True, slots=True)
class Chain:
    """Steps and notes in the smoother's form.

    Attributes
    ----------
    error_ms : array of float, shape (n,)
        Played minus asked at each moment, NaN where no note was caught.
    interval_ms : array of float, shape (n − 1,)
    clicks, silence : array of int, shape (n − 1,)
        As in ``Timeline``.
    opened : array of bool, shape (n − 1,)
        Steps that are left open, the first after a return into the click.
    slot : array of int, shape (n,)
        0 for notes on the beat, then one number for each other slot that was caught.
    ends : array of int
        Moments at which silences start or end, unique and ascending.
    beat_ms : float
    """

    error_ms: FloatArray
    interval_ms: FloatArray
    clicks: IntArray
    silence: IntArray
    opened: BoolArray
    slot: IntArray
    ends: IntArray
    beat_ms: float

    @property
    def caught(self) -> BoolArray:
        """Which moments have a note, shape (n,)."""
        return np.isfinite(self.error_ms)

    def between(self, first: int, last: int) -> Chain:
        """Return the moments from ``first`` to ``last``, both included."""
        steps, ends = slice(first, last), self.ends
        return replace(
            self,
            error_ms=self.error_ms[first : last + 1],
            interval_ms=self.interval_ms[steps],
            clicks=self.clicks[steps],
            silence=self.silence[steps],
            opened=self.opened[steps],
            slot=self.slot[first : last + 1],
            ends=ends[(ends >= first) & (ends <= last)] - first,
        )


@dataclass(frozen=True, slots=True)
class Track:
    """What the smoother says of one take, in milliseconds.

    Attributes
    ----------
    sizes : Sizes
        At the mode.
    clock_ms, clock_var : array of float, shape (n,)
        Clock error against the player's place, and its variance.
    place_ms, place_var : float
        Where the player sits against the click.
    slot_ms : array of float, shape (slots,)
        Lean of each slot against the beat; 0 for the beat.
    drift_ms, drift_var : array of float, shape (silences,)
        What the clock gained from a silence's start to its end.
    """

    sizes: Sizes
    clock_ms: FloatArray
    clock_var: FloatArray
    place_ms: float
    place_var: float
    slot_ms: FloatArray
    drift_ms: FloatArray
    drift_var: FloatArray


def chain(line: Timeline, error_s: FloatArray, *, slot: IntArray, beat_s: float) -> Chain:
    """Bring a take into the smoother's form.

    Parameters
    ----------
    line : Timeline
    error_s : array of float, shape (notes,)
        Played minus asked for each asked note, NaN where it was missed.
    slot : array of int, shape (notes,)
        Slot within the beat of each asked note, 0 on the beat.
    beat_s : float

    Returns
    -------
    Chain
    """
    error_ms = np.full(len(line), np.nan)
    error_ms[line.of_note] = error_s * 1000
    slots = np.zeros(len(line), dtype=np.int64)
    slots[line.of_note] = slot
    used = np.unique(np.concatenate([[0], slots[np.isfinite(error_ms)]]))
    heard_after = np.append(line.silence, -1)[line.end] == -1 if line.end.size else np.empty(0, bool)
    opened = np.zeros(line.interval_s.size, dtype=bool)
    opened[[k for k in line.end[heard_after] if k < opened.size]] = True
    return Chain(
        error_ms=error_ms,
        interval_ms=line.interval_s * 1000,
        clicks=line.clicks,
        silence=line.silence,
        opened=opened,
        slot=np.where(np.isin(slots, used), np.searchsorted(used, slots), 0),
        ends=np.union1d(line.start, line.end),
        beat_ms=beat_s * 1000,
    )


def smooth(take: Chain, start: IntArray, end: IntArray, *, sizes: Sizes | None = None) -> Track:
    """Take clock and hand apart.

    Parameters
    ----------
    take : Chain
        With at least ``MIN_NOTES`` caught notes.
    start, end : array of int, shape (silences,)
        Moments at which each silence starts and ends.
    sizes : Sizes, optional
        Known sizes; without them they are estimated, and integrated over.

    Returns
    -------
    Track
    """
    if sizes is not None:
        return _track([_Solution(take, sizes)], np.ones(1), start, end)
    mode, points, weights = _sizes(take)
    track = _track(points, weights, start, end)
    return Track(mode, *(getattr(track, name) for name in Track.__slots__[1:]))


def _track(solutions: list[_Solution], weights: FloatArray, start: IntArray, end: IntArray) -> Track:
    """Mix the solutions at several sizes into one mean and variance for each figure."""

    def mixed(means: list[FloatArray], variances: list[FloatArray]) -> tuple[FloatArray, FloatArray]:
        mean = np.tensordot(weights, np.array(means), 1)
        within = np.tensordot(weights, np.array(variances), 1)
        return mean, within + np.tensordot(weights, (np.array(means) - mean) ** 2, 1)

    drifts = [s.drift(start, end) for s in solutions]
    clock, clock_var = mixed([s.clock for s in solutions], [s.clock_var() for s in solutions])
    place, place_var = mixed([s.effects[:1] for s in solutions], [s.effects_cov[0, :1] for s in solutions])
    drift, drift_var = mixed([d[0] for d in drifts], [d[1] for d in drifts])
    slots = np.tensordot(weights, np.array([s.effects for s in solutions]), 1)
    return Track(
        sizes=solutions[0].sizes,
        clock_ms=clock,
        clock_var=clock_var,
        place_ms=float(place[0]),
        place_var=float(place_var[0]),
        slot_ms=np.concatenate([[0.0], slots[1:]]),
        drift_ms=drift,
        drift_var=drift_var,
    )


class _Solution:
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
        start_var = (START_SD_BEATS * take.beat_ms) ** 2
        step_var = (sizes.clock * take.interval_ms) ** 2 + np.where(take.opened, start_var, 0.0)
        keep = (1 - sizes.alpha) ** take.clicks
        gained = np.where(take.silence >= 0, take.interval_ms, 0.0)
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
        rows[:, take.ends] = 0.0
        self.rows = rows
        self.solved = dpttrs(pivots, factor, rows.T)[0].T
        self.log_posterior = float(np.log(pivots).sum())
        backward = dpttrf(diagonal[::-1], np.where(step_inner, self.off, 0.0)[::-1])[0][::-1]
        self.inner_var = 1 / (pivots + backward - diagonal)

    def _solve_ends(self) -> None:
        """Solve the banded system of ends and leans, ordered end, lean, end, lean, ..."""
        ends = self.take.ends
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
            band[0, 1::2] = lean_sum + LEAN_SD**-2 - between[2, 2]
            adjacent = np.diff(ends) == 1
            direct = ends[:-1]
            band[1, 0:-1:2] = self.lean_left[direct] - between[0, 2]
            band[1, 1::2] = self.lean_right[ends[1:] - 1] - between[1, 2]
            band[2, 0:-2:2] = np.where(adjacent, self.off[direct], 0.0) - between[0, 1]
            target[::2] = (self.data[:, ends] * self.weight[ends]).T
            target[::2] -= (sums[0, 3:, 1:] + sums[1, 3:, :-1]).T
            target[1::2] = -between[2, 3:].T
            self.factor = cholesky_banded(band, lower=True)
            self.log_posterior += 2 * float(np.log(self.factor[0]).sum())
            self.log_prior -= 2 * (z - 1) * log(LEAN_SD)
            self.at_ends = cho_solve_banded((self.factor, True), target)
        explained = self.rows[3:] @ self.solved[3:].T + target.T @ self.at_ends
        self.information = (self.data * self.weight) @ self.data.T - explained

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


def _sizes(take: Chain) -> tuple[Sizes, list[_Solution], FloatArray]:
    """Return the likeliest sizes, and weighted solutions that stand for all likely ones."""
    centre = np.array([log(CLOCK_PRIOR[0]), log(HAND_PRIOR_MS[0]), log(ALPHA_PRIOR[0] / (1 - ALPHA_PRIOR[0]))])
    spread = np.array([CLOCK_PRIOR[1], HAND_PRIOR_MS[1], ALPHA_PRIOR[1]])

    excerpts = _excerpts(take)

    def cost(free: FloatArray) -> float:
        away = (free - centre) / spread
        sizes = _sizes_of(free)
        return 0.5 * float(away @ away) - sum(_Solution(part, sizes).log_likelihood for part in excerpts)

    low, high = centre - 5 * spread, centre + 5 * spread
    trials = [centre + spread * [clock, hand, 0.0] for clock, hand in product((-1.0, 0.0, 1.0), repeat=2)]
    mode, deviations = _mode(cost, min(trials, key=cost), low, high)
    corners = [np.clip(mode + deviations @ z, low, high) for z in product((-1.0, 1.0), repeat=3)]
    costs = np.array([cost(corner) for corner in corners])
    weights = np.exp(np.maximum(costs.min() - costs, -4.0))
    return _sizes_of(mode), [_Solution(take, _sizes_of(c)) for c in corners], weights / weights.sum()


def _mode(
    cost: Callable[[FloatArray], float], start: FloatArray, low: FloatArray, high: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return where ``cost`` is least, by Newton's method, and its principal axes, one SD long.

    Newton's own steps are kept short, and halved while they lead uphill; three unknowns and a smooth
    cost need no more.
    """
    mode = start
    for _ in range(NEWTON_STEPS):
        here, gradient, hessian = _slopes(cost, mode)
        values, vectors = np.linalg.eigh(hessian)
        deviations: FloatArray = vectors / np.sqrt(np.maximum(np.abs(values), FLATTEST))
        step = np.clip(-deviations @ deviations.T @ gradient, -1.0, 1.0)
        ahead = np.clip(mode + step, low, high)
        while np.abs(ahead - mode).max() > NEWTON_CLOSE and cost(ahead) > here:
            ahead = (ahead + mode) / 2
        near = np.abs(ahead - mode).max() <= NEWTON_CLOSE
        mode = ahead
        if near:
            break
    return mode, deviations


def _excerpts(take: Chain) -> list[Chain]:
    """Return the stretches of a take that its sizes are estimated from, cut between silences."""
    n = take.error_ms.size
    if n <= EXCERPT * EXCERPTS:
        return [take]
    cuts = take.ends if take.ends.size > 1 else np.arange(0, n, EXCERPT // 4)
    parts = []
    for wanted in np.linspace(0, n - EXCERPT, EXCERPTS):
        first = cuts[min(np.searchsorted(cuts, wanted), cuts.size - 2)]
        last = cuts[min(np.searchsorted(cuts, first + EXCERPT), cuts.size - 1)]
        part = take.between(int(first), int(last))
        if np.count_nonzero(part.caught) >= MIN_NOTES:
            parts.append(part)
    return parts or [take]


def _slopes(cost: Callable[[FloatArray], float], at: FloatArray) -> tuple[float, FloatArray, FloatArray]:
    """Return ``cost``, its gradient and its Hessian, by central differences."""
    step, n = 0.1, at.size
    unit = np.eye(n) * step
    middle = cost(at)
    ahead, behind = ([cost(at + sign * e) for e in unit] for sign in (1, -1))
    gradient = (np.array(ahead) - behind) / (2 * step)
    hessian = np.diag((np.array(ahead) - 2 * middle + behind) / step**2)
    for i, j in combinations(range(n), 2):
        both = cost(at + unit[i] + unit[j]) - ahead[i] - ahead[j] + middle
        hessian[i, j] = hessian[j, i] = both / step**2
    return middle, gradient, hessian


def _sizes_of(free: FloatArray) -> Sizes:
    return Sizes(clock=exp(free[0]), hand_ms=exp(free[1]), alpha=1 / (1 + exp(-free[2])))
