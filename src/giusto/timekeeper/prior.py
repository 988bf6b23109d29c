"""What is known of a player's noise before a take is read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import exp, hypot, log
from typing import Any

import numpy as np

from giusto.arrays import FloatArray
from giusto.pooling import pool
from giusto.ranges import sd_of

# Weak priors on the sizes: median, and standard deviation of the logarithm (log odds for alpha).
# From memory: clock 1–4 % and hand 5–10 ms (Wing & Kristofferson 1973; Semjen, Schulze & Vorberg
# 2000, Psychol Res 63:137), alpha .2–.8 (Vorberg & Schulze 2002). The spreads are ours.
CLOCK_PRIOR = (0.018, 0.7)
HAND_PRIOR_MS = (11.0, 1.0)
ALPHA_PRIOR = (0.4, 1.5)
SPREAD_OF_TAKES = 0.25  # ours, weak: how far one player's log sizes differ from take to take in truth
LEAST_SD = 0.05  # ours: no take is believed more closely than this of a log size
FEWEST_TAKES = 3  # ours: fewer earlier takes say little of a player
LEAST_TOLD = 1e-3  # ours: of the weak prior's precision, below which a take tells nothing
REACH = 5.0  # ours: standard deviations of the prior within which sizes are looked for


@dataclass(frozen=True, slots=True)
class Prior:
    """What is known of the sizes beforehand: of log clock (a share), log hand (ms) and log odds of alpha.

    Attributes
    ----------
    centre, spread : array of float, shape (3,)
    takes_differ_percent : float or None
        How far the player's takes lean apart in truth; None where too few of them tell.
    """

    centre: FloatArray
    spread: FloatArray
    takes_differ_percent: float | None = None

    @property
    def low(self) -> FloatArray:
        """The lowest sizes that are looked for."""
        return self.centre - REACH * self.spread

    @property
    def high(self) -> FloatArray:
        """The highest sizes that are looked for."""
        return self.centre + REACH * self.spread

    def costs(self, free: FloatArray) -> FloatArray:
        """Return minus the log of the density at some sizes, up to a constant; shapes (…, 3) to (…).

        Fewer columns may be given, the first.
        """
        known = free.shape[-1]
        away: FloatArray = (free - self.centre[:known]) / self.spread[:known]
        costs: FloatArray = 0.5 * np.sum(away**2, axis=-1)
        return costs


def share_of(log_odds: float) -> float:
    """Return a share from its log odds."""
    return float(1 / (1 + exp(-log_odds)))


def log_odds(share: float) -> float:
    """Return the log odds of a share between 0 and 1."""
    return log(share / (1 - share))


WEAK = Prior(
    centre=np.array([log(CLOCK_PRIOR[0]), log(HAND_PRIOR_MS[0]), log_odds(ALPHA_PRIOR[0])]),
    spread=np.array([CLOCK_PRIOR[1], HAND_PRIOR_MS[1], ALPHA_PRIOR[1]]),
)


@dataclass(frozen=True, slots=True)
class Seen:
    """What one take showed of the sizes, under the weak prior's scale: means and standard deviations.

    Attributes
    ----------
    free, free_sd : tuple of 3 floats
        Log of clock (a share) and of hand (ms), log odds of alpha.
    """

    free: tuple[float, float, float]
    free_sd: tuple[float, float, float]


def seen_from(plain: Any) -> Seen | None:
    """Return what a take showed, as JSON keeps it; None for what no take can have shown."""
    try:
        rows = [tuple(float(value) for value in plain[name]) for name in ("free", "free_sd")]
        (clock, hand, alpha), (clock_sd, hand_sd, alpha_sd) = rows
    except (KeyError, OverflowError, TypeError, ValueError):  # another version's, or none
        return None
    off, sds = np.abs(np.array(rows[0]) - WEAK.centre), np.array(rows[1])
    farthest = 2 * REACH * WEAK.spread
    if not np.all((off <= farthest) & (sds > 0) & (sds <= farthest)):
        return None
    return Seen((clock, hand, alpha), (clock_sd, hand_sd, alpha_sd))


def told_by(seen: Seen, size: int) -> tuple[float, float] | None:
    """Return what one take tells of a size without the weak prior, and its variance; None where that is all it tells.

    Parameters
    ----------
    seen : Seen
    size : int
        Of ``free``.
    """
    prior, precision = WEAK.spread[size] ** -2, max(seen.free_sd[size], LEAST_SD) ** -2
    own = precision - prior
    if own <= LEAST_TOLD * prior:
        return None
    return float((precision * seen.free[size] - prior * WEAK.centre[size]) / own), float(1 / own)


def prior_from(earlier: Sequence[Seen], *, takes_differ_percent: float | None = None) -> Prior:
    """Return what a player's earlier takes let expect of the next: the weak prior for fewer than three.

    Notes
    -----
    Random effects over takes (``pooling``) with the weak prior as one take more; the spread is that
    of one further take, so a change of instrument or of form stays possible.
    """
    if len(earlier) < FEWEST_TAKES:
        return WEAK if takes_differ_percent is None else replace(WEAK, takes_differ_percent=takes_differ_percent)
    centre, spread = np.empty(3), np.empty(3)
    for k in range(3):
        values = [WEAK.centre[k], *(seen.free[k] for seen in earlier)]
        variances = [WEAK.spread[k] ** 2, *(max(seen.free_sd[k], LEAST_SD) ** 2 for seen in earlier)]
        pooled = pool(values, variances, scale=SPREAD_OF_TAKES)
        centre[k] = pooled.mean
        spread[k] = hypot(pooled.spread, sd_of(pooled.ci95), SPREAD_OF_TAKES / 2)
    return Prior(centre, np.minimum(spread, WEAK.spread), takes_differ_percent)
