"""How well a reach can be told at best: by one who sees true returns and knows how the click leaves a player."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.special import ndtr

from giusto.arrays import FloatArray
from giusto.returns.drift import HELD_OFTEN, HELD_SHARE, LEAN_SPREAD, WALK, WALK_SPREAD, quantiles

WALKS = WALK * np.exp(WALK_SPREAD * np.linspace(-2.5, 2.5, 61))
LEANS = LEAN_SPREAD * np.linspace(-3.5, 3.5, 141)
BEATS = 2.0 ** np.arange(-2, 9, 0.05)


def held_often(chances: FloatArray) -> FloatArray:
    """Return the first of ``BEATS`` that is held less than three times in four; chances of shape (..., beats)."""
    found: FloatArray = BEATS[np.argmax(chances < HELD_OFTEN, axis=-1)]
    return found


def reach_at_best(beats: FloatArray, return_beats: FloatArray, start_var: Callable[[FloatArray], FloatArray]) -> float:
    """Return the median of what can be known of a reach, in beats.

    Parameters
    ----------
    beats, return_beats : array of float, shape (n,)
        Lengths, and where the clock truly stood at the return.
    start_var : callable
        Walks (κ) to the variance with which the click leaves the clock: what no estimator of takes can know.

    Notes
    -----
    Bayes' rule over walk and lean on a grid, with the same prior as the estimator it is held against; both know that
    takes don't lean apart. What it misses the truth by is what so many silences leave open, whoever looks at them.
    """
    walk, lean = WALKS[:, None], LEANS[:, None]
    start = start_var(WALKS)[:, None]
    var = start + walk**2 * beats
    off = (return_beats - lean * beats) ** 2
    log_weight = -0.5 * (np.log(var).sum(axis=1)[:, None] + np.einsum("wn,ln->wl", 1 / var, off))
    log_weight -= 0.5 * ((np.log(walk / WALK) / WALK_SPREAD) ** 2 + (LEANS / LEAN_SPREAD) ** 2)
    weight = np.exp(log_weight - log_weight.max())
    sd, led = np.sqrt(start + walk**2 * BEATS)[:, None, :], (lean * BEATS)[None]
    lengths = held_often(ndtr((HELD_SHARE - led) / sd) - ndtr((-HELD_SHARE - led) / sd))
    return quantiles(lengths.ravel(), (weight / weight.sum()).ravel(), (0.5,))[0]
