"""How much of a heard error the next interval takes back: does the player follow, or hold."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.silence import Range
from giusto.sizes import Likely, share_of

FEWEST = 12  # ours: heard steps; with fewer the estimate is the prior's
VAGUEST = 0.8  # ours: posterior SD of the log odds; the prior's is 1


@dataclass(frozen=True, slots=True)
class Correction:
    """The share of a heard error that a click takes back: near 0 holds, near 1 follows."""

    alpha: float
    ci95: Range
    n: int


def correction(likely: Likely | None, heard_steps: int) -> Correction | str:
    """Return the correction, or why the take can't give it.

    Parameters
    ----------
    likely : Likely or None
        Of the whole take; None where its sizes were given.
    heard_steps : int
        Steps with a heard click from one caught note to the next.

    Returns
    -------
    Correction or str

    Notes
    -----
    Asynchronies with linear correction are an ARMA(1,1) process, whose likelihood the smoother's is;
    1 less the lag-one correlation would overestimate alpha, since the hand's noise lowers it. The
    range is ±1.96 posterior standard deviations of the log odds, so it stays within 0 and 1.

    References
    ----------
    Vorberg & Schulze 2002, J Math Psych 46:56 (from memory).
    """
    if likely is None:
        return "the sizes were given, not estimated"
    if heard_steps < FEWEST:
        return f"{heard_steps} steps with the click were caught; how you correct needs {FEWEST}"
    odds, sd = likely.free[2], likely.free_sd[2]
    if sd > VAGUEST:
        return "the notes with the click do not say how you correct"
    low, high = (round(share_of(odds + sign * 1.96 * sd), 3) for sign in (-1, 1))
    return Correction(round(share_of(odds), 3), (low, high), heard_steps)
