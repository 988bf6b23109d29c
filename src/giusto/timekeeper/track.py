"""Clock and hand apart: the two-level timekeeper as a state-space smoother.

Model, in milliseconds. ``D[k]`` is the clock's error against the grid less the player's place:

- a note: ``played − asked = D[k] + place + slot's lean + N(0, hand²)``;
- a step: ``D[k+1] = (1 − α)^more · (D[k] − α · heard[k]) + lean · interval + N(0, (cv · interval)²)``, where
  ``heard[k]`` is what the player hears of a note played with a click, ``played − asked − place − lean``,
  the hand's part included, and ``more`` counts clicks that no note was caught with: these take back
  a share of D itself. Each silence has a lean of its own; while the click sounds it is next to none.

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

from dataclasses import dataclass, replace

import numpy as np

from giusto.arrays import FloatArray, IntArray
from giusto.timekeeper.prior import WEAK, Prior
from giusto.timekeeper.sizes import Likely, likely_sizes
from giusto.timekeeper.solution import Solution, solve
from giusto.timekeeper.take import Chain, Sizes


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
    slot_ms, slot_var : array of float, shape (slots,)
        Lean of each slot against the beat, and its variance; 0 for the beat.
    lean, lean_var : array of float, shape (silences,)
        Drift a unit of time that each silence's clock was set to, its own noise apart, and its variance.
    drift_ms, drift_var : array of float, shape (silences,)
        What the clock gained from a silence's start to its end.
    likely : Likely or None
        How sure the sizes are; None where they were given.
    """

    sizes: Sizes
    clock_ms: FloatArray
    clock_var: FloatArray
    place_ms: float
    place_var: float
    slot_ms: FloatArray
    slot_var: FloatArray
    lean: FloatArray
    lean_var: FloatArray
    drift_ms: FloatArray
    drift_var: FloatArray
    likely: Likely | None = None


def smooth(take: Chain, start: IntArray, end: IntArray, *, sizes: Sizes | None = None, prior: Prior = WEAK) -> Track:
    """Take clock and hand apart.

    Parameters
    ----------
    take : Chain
        With at least ``MIN_NOTES`` caught notes.
    start, end : array of int, shape (silences,)
        Moments at which each silence starts and ends.
    sizes : Sizes, optional
        Known sizes; without them they are estimated, and integrated over.
    prior : Prior
        What is known of the sizes beforehand.

    Returns
    -------
    Track
    """
    if sizes is not None:
        return _track([solve(take, sizes)], np.ones(1), start, end)
    likely = likely_sizes(take, prior)
    return replace(_track(likely.solutions, likely.weights, start, end), sizes=likely.mode, likely=likely)


def _track(solutions: list[Solution], weights: FloatArray, start: IntArray, end: IntArray) -> Track:
    """Mix the solutions at several sizes into one mean and variance for each figure."""

    def mixed(means: list[FloatArray], variances: list[FloatArray]) -> tuple[FloatArray, FloatArray]:
        mean = np.tensordot(weights, np.array(means), 1)
        within = np.tensordot(weights, np.array(variances), 1)
        return mean, within + np.tensordot(weights, (np.array(means) - mean) ** 2, 1)

    drifts = [s.drift(start, end) for s in solutions]
    clock, clock_var = mixed([s.clock for s in solutions], [s.clock_var() for s in solutions])
    place, place_var = mixed([s.effects[:1] for s in solutions], [s.effects_cov[0, :1] for s in solutions])
    drift, drift_var = mixed([d[0] for d in drifts], [d[1] for d in drifts])
    leans = [s.leans(start) for s in solutions]
    lean, lean_var = mixed([each[0] for each in leans], [each[1] for each in leans])
    slots, slot_var = mixed([s.effects for s in solutions], [np.diag(s.effects_cov) for s in solutions])
    return Track(
        sizes=solutions[0].sizes,
        clock_ms=clock,
        clock_var=clock_var,
        place_ms=float(place[0]),
        place_var=float(place_var[0]),
        slot_ms=np.concatenate([[0.0], slots[1:]]),
        slot_var=np.concatenate([[0.0], slot_var[1:]]),
        lean=lean,
        lean_var=lean_var,
        drift_ms=drift,
        drift_var=drift_var,
    )
