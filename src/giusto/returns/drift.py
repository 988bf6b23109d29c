"""How a player's time drifts in silences, over takes: the one model behind reach, what is held, and what is clean.

All in beats. The return of silence i of take t, of length L click to click, read with standard error s:

    r = b_t · L + e,    e ~ N(0, σ0² + κ² · (L + 1) + s²),    b_t ~ N(b, δ²)

κ² · L is the clock's random walk, b the player's lean, δ how far takes lean apart. Where the clock stood when the click
left varies too: by a beat of its own walk, since no click has yet taken that back, and by σ0, the more the looser the
hand that it follows. The same hand and clock say how closely a return is read, so that s tells beforehand how large σ0
is; and what the notes of the takes say of the clock tells κ beforehand. κ, δ and σ0 are integrated over on a grid, b
and the leans of takes in closed form; a take that is older counts for less. What comes back a quarter of a beat off
and more, and far from where the drift leads, is a lapse, and counted apart.

References
----------
Wing & Kristofferson 1973, Percept Psychophys 14:5: the clock's intervals are independent, so that its error grows
as a random walk (from memory). Power likelihoods for what fades: Ibrahim & Chen 2000, Stat Sci 15:46 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, cached_property, lru_cache
from math import sqrt

import numpy as np
from scipy.special import ndtr, ndtri

from giusto.arrays import BoolArray, FloatArray, IntArray

HELD_SHARE = 0.05  # of a beat on either side; a setting, ours (see docs/decisions/0005)
AHEAD = 1.0  # ours, in beats: what the clock has walked when the click leaves, which no click has taken back
START = 0.012  # ours: σ0 of most players, in beats; of one whose returns are known, by how closely they are read
START_OF_SD, START_SPREAD = 0.7, 0.5  # ours, by ./giusto bench: σ0 over that, and the spread of its logarithm
LEAST_START = 0.002  # ours, in beats: no click leaves a clock more closely
STARTS = START_SPREAD * np.linspace(-1.6, 1.6, 5)  # ours: log σ0 from its middle
WALK, WALK_SPREAD = 0.014, 0.7  # ours: κ of most players, and the spread of its logarithm; where no notes tell it
TAKES_APART = 0.002  # ours: scale of δ, as a half-normal
LEAN_SPREAD = 0.012  # ours: how far players lean
LAPSE_BEATS = 0.25  # ours: nobody drifts that far who has not lost count, or the click
LAPSES, LAPSES_OF = 0.2, 10.0  # ours: known of lapses beforehand, as if so many of so many
FAR = 4.0  # ours: standard deviations from where the drift leads
WALKS, APARTS, LEANS = 41, 5, 7  # ours: points of the grid; the first as close as a hundred silences can tell
FEWEST_WALKS = 15  # ours: enough where notes tell the walk more closely than silences can
# Of a normal: standard deviations and weights, out to where its tails end, so that ranges are not cut short.
NODES = np.linspace(-2.25, 2.25, LEANS)
NODE_WEIGHT = np.exp(-(NODES**2) / 2) / np.exp(-(NODES**2) / 2).sum()
LIKELY, FEWER = 13, 5  # ours: equally likely values that stand for what is known of a walk, and of δ and σ0
FARTHEST = 2.5  # ours: standard deviations of log κ to either side
# log2 of the lengths that are looked at: click to click, no silence is shorter than a beat.
SHORTEST, LONGEST = 0.0, 12.0
HALVINGS = 15
REMEMBERED = 32  # ours: what some hundred silences come to, some hundred kB each
UNLIKELY = 1e-5  # ours: of all points together
HALF_LIFE_DAYS = 28.0  # by the contract: what is older counts half for each four weeks
HELD_OFTEN = 0.75  # by the contract of reach/2: held three times in four


@dataclass(frozen=True, slots=True)
class Walk:
    """What is known of κ, beside what returns tell: log-normal.

    Attributes
    ----------
    beats : float
        κ, the walk of a beat.
    log_sd : float
        Above 0.
    """

    beats: float
    log_sd: float


@dataclass(frozen=True, slots=True)
class Returns:
    """Returns of silences, take by take.

    Attributes
    ----------
    take : array of int, shape (n,)
        Which take each is of, counted from 0.
    beats, return_beats, sd_beats : array of float, shape (n,)
        Length click to click, place at the return (late is positive), its standard error.
    weight : array of float, shape (takes,)
        How much each take counts, 0 to 1.
    walk : Walk or None
        What their notes say of the clock's walk; None where that isn't known.
    """

    take: IntArray
    beats: FloatArray
    return_beats: FloatArray
    sd_beats: FloatArray
    weight: FloatArray
    walk: Walk | None = None

    @property
    def is_far(self) -> BoolArray:
        """Which of them came back so far off that they may be lapses, shape (n,)."""
        far: BoolArray = np.abs(self.return_beats) >= LAPSE_BEATS
        return far


USUAL = Walk(WALK, WALK_SPREAD)
NONE = Returns(np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0), np.zeros(0), np.zeros(0))


def joined(earlier: Returns, later: Returns) -> Returns:
    """Return the returns of earlier takes and of later ones as one."""
    return Returns(
        take=np.concatenate([earlier.take, earlier.weight.size + later.take]),
        beats=np.concatenate([earlier.beats, later.beats]),
        return_beats=np.concatenate([earlier.return_beats, later.return_beats]),
        sd_beats=np.concatenate([earlier.sd_beats, later.sd_beats]),
        weight=np.concatenate([earlier.weight, later.weight]),
        walk=later.walk or earlier.walk,
    )


def fading(age_days: Sequence[float] | FloatArray) -> FloatArray:
    """Return how much takes of some age count.

    Examples
    --------
    >>> fading([0.0, 28.0, 56.0]).tolist()
    [1.0, 0.5, 0.25]
    """
    found: FloatArray = 0.5 ** (np.maximum(np.asarray(age_days, dtype=np.float64), 0.0) / HALF_LIFE_DAYS)
    return found


@dataclass(frozen=True)
class Drift:
    """What is known of a player's drift: a grid of walks and spreads, and the lean given each.

    Attributes
    ----------
    walk, apart, start, weight : array of float, shape (g,)
        κ, δ, σ0, and how likely each point is.
    lean, lean_var : array of float, shape (g,)
        b given each point: mean and variance.
    lapse : float
        The chance of a lapse.
    """

    walk: FloatArray
    apart: FloatArray
    start: FloatArray
    weight: FloatArray
    lean: FloatArray
    lean_var: FloatArray
    lapse: float

    def chances(self, beats: FloatArray) -> FloatArray:
        """Return the chance that silences of some lengths are held, at every likely point: shape (points, n)."""
        return self._chances(np.broadcast_to(beats, (self._lean.size, beats.size)))

    def chance(self, beats: float) -> float:
        """Return the chance that a silence of some length is held, all that isn't known integrated over."""
        return float(self.weights @ self.chances(np.array([float(beats)]))[:, 0])

    def all_held(self, beats: FloatArray, *, slots: float = 1.0) -> float:
        """Return the chance that silences of some lengths are all held, in a take to come.

        Parameters
        ----------
        beats : array of float
        slots : float
            Notes to the beat, over those that the drift was read from: a clock's steps are as uneven as they are long,
            so that twice as many walk by the root of a half.
        """
        walk, apart = self._walk / sqrt(slots), self._apart
        nodes = ndtri((np.arange(LEANS) + 0.5) / LEANS)
        lengths, times = np.unique(beats, return_counts=True)  # most drills have one length over and over
        mean = (self._lean[:, None] + apart[:, None] * nodes)[:, :, None] * lengths
        sd = np.sqrt(self._start[:, None, None] ** 2 + walk[:, None, None] ** 2 * (AHEAD + lengths))
        held = (1 - self.lapse) * (ndtr((HELD_SHARE - mean) / sd) - ndtr((-HELD_SHARE - mean) / sd))
        return float(self.weights @ (held**times).prod(axis=2).mean(axis=1))

    def reach_quantiles(self, shares: Sequence[float]) -> list[float]:
        """Return quantiles of the length that is held three times in four, in beats."""
        low, high = (np.full((self._lean.size, 1), end) for end in (SHORTEST, LONGEST))
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            is_held = self._chances(2.0**middle) >= HELD_OFTEN
            low, high = np.where(is_held, middle, low), np.where(is_held, high, middle)
        return [float(2.0**end) for end in quantiles(low[:, 0], self.weights, shares)]

    def lean_quantiles(self, shares: Sequence[float]) -> list[float]:
        """Return quantiles of the lean, in beats a beat; late is positive."""
        return quantiles(self._lean, self.weights, shares)

    @cached_property
    def _lean(self) -> FloatArray:
        """Leans of each point, evenly apart, shape (points,)."""
        lean: FloatArray = (self.lean[:, None] + np.sqrt(self.lean_var)[:, None] * NODES).ravel()
        return lean

    @cached_property
    def _walk(self) -> FloatArray:
        walk: FloatArray = np.repeat(self.walk, LEANS)
        return walk

    @cached_property
    def _start(self) -> FloatArray:
        start: FloatArray = np.repeat(self.start, LEANS)
        return start

    @cached_property
    def _apart(self) -> FloatArray:
        apart: FloatArray = np.repeat(self.apart, LEANS)
        return apart

    @cached_property
    def weights(self) -> FloatArray:
        """How likely each likely point is, its leans apart, shape (points,)."""
        weight: FloatArray = np.outer(self.weight, NODE_WEIGHT).ravel()
        return weight

    def _chances(self, beats: FloatArray) -> FloatArray:
        """Return chances at lengths of each point's own: shape (points, n) to (points, n)."""
        walk, apart = self._walk[:, None], self._apart[:, None]
        mean = self._lean[:, None] * beats
        sd = np.sqrt(self._start[:, None] ** 2 + walk**2 * (AHEAD + beats) + (apart * beats) ** 2)
        chances: FloatArray = (1 - self.lapse) * (ndtr((HELD_SHARE - mean) / sd) - ndtr((-HELD_SHARE - mean) / sd))
        return chances


def drift_as(
    *,
    walk: float,
    walk_log_sd: float,
    lean: float,
    lean_sd: float,
    apart: float,
    apart_log_sd: float = 0.0,
    start: float = START,
    start_log_sd: float = 0.0,
) -> Drift:
    """Return a drift whose parts are known from elsewhere: κ, δ and σ0 as log-normal, b as normal."""
    known = ((walk, walk_log_sd, LIKELY), (apart, apart_log_sd, FEWER), (start, start_log_sd, FEWER))
    likely = (middle * np.exp(log_sd * ndtri((np.arange(n) + 0.5) / n)) for middle, log_sd, n in known)
    walks, aparts, starts = (grid.ravel() for grid in np.meshgrid(*likely, indexing="ij"))
    same = np.ones(walks.size)
    return Drift(walks, aparts, starts, same / walks.size, lean * same, lean_sd**2 * same, 0.0)


@dataclass(frozen=True, slots=True)
class _Sums:
    """What the drifts of each take add up to at each point of the grid, each of shape (g, takes).

    Given b they are ``fit + b · pull − b² · hold / 2``, the take's own lean integrated over.
    """

    hold: FloatArray
    pull: FloatArray
    fit: FloatArray


def drift_of(returns: Returns) -> Drift:
    """Return what returns tell of a player's drift; what is known beforehand, where there are none.

    What was asked lately is remembered: on a day, many pages ask it of the same returns.
    """
    take, beats, back, sd = returns.take, returns.beats, returns.return_beats, returns.sd_beats
    every = (take, beats, back, sd, returns.weight)
    return _remembered(returns.walk, *(np.ascontiguousarray(one).tobytes() for one in every))


@lru_cache(maxsize=REMEMBERED)
def _remembered(walk: Walk | None, take: bytes, *floats: bytes) -> Drift:
    beats, back, sd, weight = (np.frombuffer(one) for one in floats)
    return _drift_of(Returns(np.frombuffer(take, dtype=np.int64), beats, back, sd, weight, walk))


def _drift_of(returns: Returns) -> Drift:
    found = _fitted(returns, returns.is_far)
    if not returns.is_far.any():
        return found
    walked = found.start[:, None] ** 2 + found.walk[:, None] ** 2 * (AHEAD + returns.beats)
    var = found.weight @ walked + returns.sd_beats**2
    led = float(found.weight @ found.lean) * returns.beats
    return _fitted(returns, returns.is_far & (np.abs(returns.return_beats - led) > FAR * np.sqrt(var)))


def _fitted(returns: Returns, is_lapse: BoolArray) -> Drift:
    """Return what returns tell where some of them are lapses."""
    walk, apart, start, log_prior = _grid(returns.walk or USUAL, start_of(returns.sd_beats))
    sums = _sums(returns, ~is_lapse, walk, apart, start)
    hold, pull, fit = (one @ returns.weight for one in (sums.hold, sums.pull, sums.fit))
    precision = hold + LEAN_SPREAD**-2
    lean = pull / precision
    log_weight = fit + 0.5 * (lean * pull - np.log(precision)) + log_prior
    weight = np.exp(log_weight - log_weight.max())
    likely = weight > UNLIKELY * weight.sum()  # the rest tells nothing, and costs as much
    walk, apart, start, weight, lean, precision = (one[likely] for one in (walk, apart, start, weight, lean, precision))
    counts = returns.weight[returns.take]
    lapse = (LAPSES + float(counts @ is_lapse)) / (LAPSES_OF + float(counts.sum()))
    return Drift(walk, apart, start, weight / weight.sum(), lean, 1 / precision, lapse)


def start_of(sd_beats: FloatArray) -> float:
    """Return the σ0 that is likeliest beforehand, by how closely returns are read."""
    return max(START_OF_SD * float(np.median(sd_beats)), LEAST_START) if sd_beats.size else START


def _grid(walk: Walk, start: float) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Return κ, δ and σ0 of each point, and the log of how likely it is beforehand, each of shape (g,)."""
    away, apart, spread, log_prior = _spread(max(round(WALKS * walk.log_sd / WALK_SPREAD), FEWEST_WALKS))
    return walk.beats * np.exp(walk.log_sd * away), apart, start * np.exp(spread), log_prior


@cache
def _spread(walks: int) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Return log κ in its standard deviations, δ, log σ0 about its middle, and the log of how likely each point is.

    All off the middle, beforehand, and each of shape (g,).
    """
    aways = np.linspace(-FARTHEST, FARTHEST, walks)
    aparts = TAKES_APART * ndtri(0.5 + 0.5 * (np.arange(APARTS) + 0.5) / APARTS)  # equally likely
    away, apart, spread = (grid.ravel() for grid in np.meshgrid(aways, aparts, STARTS, indexing="ij"))
    return away, apart, spread, -0.5 * (away**2 + (spread / START_SPREAD) ** 2)


def _sums(returns: Returns, drifts: BoolArray, walk: FloatArray, apart: FloatArray, start: FloatArray) -> _Sums:
    beats, back = returns.beats[drifts], returns.return_beats[drifts]
    of_take = (returns.take[drifts][:, None] == np.arange(returns.weight.size)).astype(np.float64)
    some_walk, some_start = (_of_each_apart(one) for one in (walk, start))  # δ has no part in what follows
    var = some_start[:, None] ** 2 + np.outer(some_walk**2, AHEAD + beats) + returns.sd_beats[drifts] ** 2
    precise = 1 / var
    sums = (precise * beats**2, precise * (beats * back), np.log(var) + precise * back**2)
    hold, pull, off = (_for_each_apart(one @ of_take) for one in sums)
    own = 1 + apart[:, None] ** 2 * hold  # the take's own lean takes its part of both
    fit = -0.5 * (off + np.log(own) - apart[:, None] ** 2 * pull**2 / own)
    return _Sums(hold / own, pull / own, fit)


def _of_each_apart(points: FloatArray) -> FloatArray:
    """Return the points of the grid at one δ, shape (g,) to (g / δ's,)."""
    some: FloatArray = points.reshape(-1, APARTS, STARTS.size)[:, 0].ravel()
    return some


def _for_each_apart(some: FloatArray) -> FloatArray:
    """Return sums at one δ for every δ, shape (g / δ's, takes) to (g, takes)."""
    points, takes = some.shape
    by_start = some.reshape(points // STARTS.size, 1, STARTS.size, takes)
    every = np.broadcast_to(by_start, (len(by_start), APARTS, STARTS.size, takes))
    spread: FloatArray = every.reshape(points * APARTS, takes)
    return spread


def quantiles(values: FloatArray, weight: FloatArray, shares: Sequence[float]) -> list[float]:
    """Return quantiles of weighted values, between them as straight lines go; weights summing to 1."""
    order = np.argsort(values)
    below = np.cumsum(weight[order]) - weight[order] / 2
    return np.interp(shares, below, values[order]).tolist()
