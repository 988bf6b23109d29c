"""The chance that a silence was held: that its true return lies within the limit, by all that is known of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, ndtri

from giusto.arrays import FloatArray
from giusto.returns.drift import AHEAD, HELD_SHARE, Drift, Returns

SURE, SURELY_NOT = 0.9, 0.1  # by the contract of reading/1: held from here on, not held up to there
LEANS = 7  # ours: equally likely leans that stand for all
LEAST_SD = 1e-4  # of a beat: nothing is read more closely


@dataclass(frozen=True, slots=True)
class HeldChances:
    """The chances that the silences of a take were held.

    Attributes
    ----------
    each : array of float, shape (n,)
    all : float
        That all of them were; 1 where there are none.
    """

    each: FloatArray
    all: float


def held_chances(drift: Drift, take: Returns) -> HeldChances:
    """Return the chances that the silences of one take were held.

    Parameters
    ----------
    drift : Drift
        What is known of the player, this take among what it rests on.
    take : Returns
        Of this take alone.

    Notes
    -----
    Given the walk κ, how far takes lean apart δ, and this take's lean B, true returns are independent: each is drawn
    from what was read towards where B leads, by their variances. All three are integrated over, so that chances of
    one take hang together. What came back a quarter of a beat off was not held.
    """
    beats, back, lapse = take.beats, take.return_beats, take.is_far
    sd = np.maximum(take.sd_beats, LEAST_SD)
    apart, known = drift.apart[:, None] ** 2, ~lapse
    walked = drift.start[:, None] ** 2 + drift.walk[:, None] ** 2 * (AHEAD + beats)  # shape (g, n)
    var = walked + sd**2
    hold, pull = (beats**2 / var)[:, known].sum(axis=1), (beats * back / var)[:, known].sum(axis=1)
    own = 1 + apart[:, 0] * hold
    lean = (apart[:, 0] * pull + drift.lean) / own
    lean_sd = np.sqrt(apart[:, 0] / own + drift.lean_var / own**2)
    nodes = ndtri((np.arange(LEANS) + 0.5) / LEANS)
    leans = lean[:, None] + lean_sd[:, None] * nodes  # shape (g, leans)
    gain = walked / var
    led = leans[:, :, None] * beats
    middle = led + gain[:, None, :] * (back - led)
    true_sd = np.sqrt(gain)[:, None, :] * sd
    chances = ndtr((HELD_SHARE - middle) / true_sd) - ndtr((-HELD_SHARE - middle) / true_sd)
    chances[:, :, lapse] = 0.0
    weight = drift.weight / LEANS
    each: FloatArray = np.einsum("g,gln->n", weight, chances)
    return HeldChances(each, min(float(np.einsum("g,gl->", weight, chances.prod(axis=2))), 1.0))
