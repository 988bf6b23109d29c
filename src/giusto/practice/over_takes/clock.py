"""A player's clock over takes, as a share of a slot: what their noise sizes say together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, hypot, log, sqrt

from giusto.pooling import pool
from giusto.ranges import Z95, Range
from giusto.returns.drift import Walk
from giusto.timekeeper.prior import WEAK, Seen, told_by

CLOCK = 0  # of the sizes
SPREAD_OF_CLOCKS = 0.25  # ours, weak: how far a player's log clock differs from take to take
PULLED = 0.8  # ours, by simulated players: a hand pulls all takes alike, by so much of the variance that one leaves
ALONE = 0.1  # ours: how far, in its logarithm, a clock alone may differ from the one that all notes show


@dataclass(frozen=True, slots=True)
class Clock:
    """A clock's standard deviation from slot to slot, as a share of a slot, with the usual notes to the beat."""

    slots: int
    share: float
    ci95: Range

    @property
    def walk(self) -> Walk:
        """What it lets expect of the walk in a silence: steps add up as their variances, so many to a beat."""
        low, high = self.ci95
        return Walk(self.share / sqrt(self.slots), log(high / low) / (2 * Z95))


def clock_of(seen: Sequence[tuple[int, Seen]]) -> Clock | None:
    """Return the player's clock by the takes with the usual notes to the beat; None where no take tells it.

    Parameters
    ----------
    seen : sequence of (int, Seen)
        Notes to the beat, and what a take showed of the noise sizes.

    Notes
    -----
    Each take tells its own size, the weak prior taken out of it; that counts once, as one take more. Left in, forty
    takes by a loose hand, of which each tells little, would say forty times what players' clocks are like.
    """
    by_slots: dict[int, list[Seen]] = {}
    for slots, one in seen:
        by_slots.setdefault(slots, []).append(one)
    if not by_slots:
        return None
    slots, some = max(by_slots.items(), key=lambda item: len(item[1]))
    told = [one for one in (told_by(one, CLOCK) for one in some) if one]
    sizes, variances = zip((WEAK.centre[CLOCK], WEAK.spread[CLOCK] ** 2), *told, strict=True)
    usual = len(told) / sum(1 / variance for _, variance in told) if told else WEAK.spread[CLOCK] ** 2
    found = pool(sizes, variances, scale=SPREAD_OF_CLOCKS, shared=hypot(ALONE, PULLED * usual))
    low, high = found.ci95
    return Clock(slots, exp(found.mean), (exp(low), exp(high)))


def walk_of(seen: Sequence[tuple[int, Seen]]) -> Walk | None:
    """Return what the clock of some takes lets expect of the walk in a silence; None where no take tells of it."""
    clock = clock_of(seen)
    return clock.walk if clock else None
