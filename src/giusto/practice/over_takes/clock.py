"""A player's clock over takes, as a share of a slot: what their noise sizes say together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp

from giusto.pooling import pool
from giusto.ranges import Range
from giusto.timekeeper.prior import Seen

SPREAD_OF_CLOCKS = 0.25  # ours, weak: how far a player's log clock differs from take to take
LEAST_SD = 0.05  # of a log size: no single take tells it better
ALL_OFF = 0.15  # ours, by simulated players: so far a hand may pull all of its takes, which none of them shows


@dataclass(frozen=True, slots=True)
class Clock:
    """A clock's standard deviation from slot to slot, as a share of a slot, with the usual notes to the beat."""

    slots: int
    share: float
    ci95: Range


def clock_of(seen: Sequence[tuple[int, Seen]]) -> Clock | None:
    """Return the player's clock by the takes with the usual notes to the beat; None where no take tells it.

    Parameters
    ----------
    seen : sequence of (int, Seen)
        Notes to the beat, and what a take showed of the noise sizes.
    """
    by_slots: dict[int, list[Seen]] = {}
    for slots, one in seen:
        by_slots.setdefault(slots, []).append(one)
    if not by_slots:
        return None
    slots, some = max(by_slots.items(), key=lambda item: len(item[1]))
    sizes, variances = zip(*((one.free[0], max(one.free_sd[0], LEAST_SD) ** 2) for one in some), strict=True)
    found = pool(sizes, variances, scale=SPREAD_OF_CLOCKS, shared=ALL_OFF)
    low, high = found.ci95
    return Clock(slots, exp(found.mean), (exp(low), exp(high)))
