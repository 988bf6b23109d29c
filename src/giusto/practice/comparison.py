"""Two takes side by side: what differs, and whether by more than chance."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import exp, hypot, log
from typing import TypeAlias

from giusto.practice.clean import INDEPENDENT_SHARE
from giusto.practice.verdict import spread_range
from giusto.ranges import Range, rounded
from giusto.reading import Reading

LEAST = 1e-6  # of a size whose logarithm is taken
Ranged: TypeAlias = tuple[float, Range]


@dataclass(frozen=True, slots=True)
class Difference:
    """One figure before and after.

    Attributes
    ----------
    figure : str
        ``tempo`` (percent, faster positive), ``place`` (ms, late positive), ``spread``, ``clock``,
        ``hand`` (ms) or ``correction`` (a share).
    before, after : float
    change : float
        After less before; for the three sizes after over before.
    ci95 : (float, float)
        Of the change.
    more_than_chance : bool
        Whether that range leaves no change out.
    """

    figure: str
    before: float
    after: float
    change: float
    ci95: Range
    more_than_chance: bool


def compare(before: Reading, after: Reading) -> list[Difference]:
    """Return the figures that both takes give.

    Notes
    -----
    Differences of independent estimates: half ranges add in squares; sizes are compared by their
    logarithms. The spread's range is that of χ², n a third of the heard notes, since neighbours are alike.
    """
    found: list[Difference] = []
    if before.tendency and after.tendency:
        tempos = [(take.tempo_percent, take.ci95_percent) for take in (before.tendency, after.tendency)]
        found.append(_apart("tempo", *tempos))
    places = [(heard.mean_error_ms, heard.ci95_ms) for heard in (before.heard, after.heard)]
    found += _both("place", places, _apart)
    spreads = [
        (heard.sd_ms, spread_range(heard.sd_ms, heard.n * INDEPENDENT_SHARE) if heard.sd_ms else None)
        for heard in (before.heard, after.heard)
    ]
    found += _both("spread", spreads, _ratio)
    if before.variability and after.variability:
        parts = (before.variability, after.variability)
        found += _both("clock", [(part.clock_sd_ms, part.clock_ci95_ms) for part in parts], _ratio)
        found += _both("hand", [(part.motor_sd_ms, part.motor_ci95_ms) for part in parts], _ratio)
    if before.correction and after.correction:
        shares = [(share.alpha, share.ci95) for share in (before.correction, after.correction)]
        found.append(_apart("correction", *shares))
    return found


def _both(
    figure: str,
    pairs: list[tuple[float | None, Range | None]],
    differ: Callable[[str, Ranged, Ranged], Difference],
) -> list[Difference]:
    """Return the difference where both takes give the figure, with its range."""
    known = [(value, ci95) for value, ci95 in pairs if value is not None and ci95 is not None]
    return [differ(figure, known[0], known[1])] if len(known) == 2 else []


def _apart(figure: str, before: Ranged, after: Ranged) -> Difference:
    (was, was_ci), (is_, is_ci) = before, after
    change = is_ - was
    # The lower end of a difference comes of the lower end after and the upper one before.
    low = change - hypot(is_ - is_ci[0], was_ci[1] - was)
    high = change + hypot(is_ci[1] - is_, was - was_ci[0])
    return Difference(figure, was, is_, round(change, 3), rounded((low, high)), low > 0 or high < 0)


def _ratio(figure: str, before: Ranged, after: Ranged) -> Difference:
    found = _apart(figure, _logs(before), _logs(after))
    ci95 = rounded((exp(found.ci95[0]), exp(found.ci95[1])))
    return Difference(figure, before[0], after[0], round(exp(found.change), 3), ci95, found.more_than_chance)


def _logs(figure: Ranged) -> Ranged:
    size, (low, high) = figure
    return log(max(size, LEAST)), (log(max(low, LEAST)), log(max(high, LEAST)))
