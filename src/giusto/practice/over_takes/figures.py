"""The figures that are followed over takes: how each is had of a take, with its variance, and how it is pooled."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from math import exp, log

import numpy as np

from giusto.figures.tendency import SPREAD_OF_TAKES_PERCENT, TAKES_WIDER
from giusto.missing import Missing
from giusto.pooling import pool
from giusto.practice.clean import INDEPENDENT_SHARE
from giusto.practice.course import Course, course
from giusto.practice.over_takes.facts import TakeFacts
from giusto.ranges import Range, sd_of
from giusto.tempo import slot_ms
from giusto.timekeeper.prior import share_of

SPREAD_OF_LOGS, SPREAD_OF_ALPHA, SPREAD_OF_PLACE_MS = 0.2, 0.15, 8.0  # ours, weak: how far takes differ in truth
LEAST_ALPHA_SD, LEAST_SD = 0.05, 1e-3
CLOCK_SIZE, HAND_SIZE, ALPHA_ODDS = 0, 1, 2  # of what a take showed
LEAST_INDEPENDENT = 2.0  # of notes behind a spread
Told = tuple[float, float]  # a value and its variance


@dataclass(frozen=True, slots=True)
class Followed:
    """A figure that is followed over takes.

    Attributes
    ----------
    key : str
    needs : str
        The field of a reading that it is told by.
    told : callable
        Returns a take's value and variance, None where the take has none; sizes as logarithms.
    scale : float
        How far takes differ in truth, as a prior's scale.
    is_size : bool
        Whether it is a size: its logarithm is followed.
    wider : float
        How much wider its ranges over takes are told.
    """

    key: str
    needs: str
    told: Callable[[TakeFacts], Told | None]
    scale: float
    is_size: bool = False
    wider: float = 1.0

    def shown(self, value: float) -> float:
        """Return a value as it is told: a size itself, not its logarithm."""
        return exp(value) if self.is_size else value


@dataclass(frozen=True, slots=True)
class OverTakes:
    """What takes say of a figure together: its value, range, and how many tell it."""

    value: float
    ci95: Range
    takes: int


def needed(some: Iterable[Followed]) -> tuple[str, ...]:
    """Return the fields of readings that some figures are told by, each once."""
    return tuple(dict.fromkeys(one.needs for one in some))


def course_of(followed: Followed, takes: Iterable[TakeFacts], *, figures: int) -> Course | Missing:
    """Return how a figure went over takes, oldest first; so many figures of a page share the doubt."""
    told = [(*one, take) for take in takes if (one := followed.told(take))]
    values, variances, some = zip(*told, strict=True) if told else ((), (), ())
    sds = np.sqrt(np.array(variances))
    return course(values, sds, [take.day for take in some], at=[take.days for take in some], figures=figures)


def pooled(followed: Followed, takes: Sequence[TakeFacts], *, fewest: int) -> OverTakes | None:
    """Return what takes say of a figure together; None where fewer than so many tell it."""
    told = [one for take in takes if (one := followed.told(take))]
    if len(told) < fewest:
        return None
    found = pool(*zip(*told, strict=True), scale=followed.scale)
    low, high = (found.mean + followed.wider * (end - found.mean) for end in found.ci95)
    return OverTakes(followed.shown(found.mean), (followed.shown(low), followed.shown(high)), len(told))


def _lean(take: TakeFacts) -> Told | None:
    lean = take.figures and take.figures.tendency
    return (lean.tempo_percent, max(sd_of(lean.ci95_percent), LEAST_SD) ** 2) if lean else None


def _seen(take: TakeFacts, which: int, of: float) -> Told | None:
    """Return one of the sizes as the take alone says it; a logarithm, of a size as it is told."""
    seen = take.figures and take.figures.sizes
    return (seen.free[which] + log(of), max(seen.free_sd[which], LEAST_SD) ** 2) if seen else None


def _clock(take: TakeFacts) -> Told | None:
    return _seen(take, CLOCK_SIZE, 100)


def _hand(take: TakeFacts) -> Told | None:
    return _seen(take, HAND_SIZE, 1)


def _spread(take: TakeFacts) -> Told | None:
    """Return the logarithm of the spread with the click in percent of a slot; more notes tell it better."""
    heard = take.figures and take.figures.heard
    independent = INDEPENDENT_SHARE * heard.n if heard else 0.0
    if not heard or not heard.sd_ms or independent <= LEAST_INDEPENDENT:
        return None
    return log(100 * heard.sd_ms / slot_ms(take.tempo_bpm, take.slots)), 1 / (2 * (independent - 1))


def _alpha(take: TakeFacts) -> Told | None:
    """Return the share that a click takes back, its log odds brought to shares."""
    odds = _seen(take, ALPHA_ODDS, 1)
    if odds is None:
        return None
    share = share_of(odds[0])
    return share, max(odds[1] * (share * (1 - share)) ** 2, LEAST_ALPHA_SD**2)


def _place(take: TakeFacts) -> Told | None:
    heard = take.figures and take.figures.heard
    if take.place_ms is None or not take.spread_ms or not heard or not heard.n:
        return None
    return take.place_ms, take.spread_ms**2 / max(INDEPENDENT_SHARE * heard.n, 1.0)


LEAN = Followed("lean", "tendency", _lean, SPREAD_OF_TAKES_PERCENT, wider=TAKES_WIDER)
CLOCK = Followed("clock", "sizes", _clock, SPREAD_OF_LOGS, is_size=True)
HAND = Followed("hand", "sizes", _hand, SPREAD_OF_LOGS, is_size=True)
ALPHA = Followed("alpha", "sizes", _alpha, SPREAD_OF_ALPHA)
PLACE = Followed("place", "heard", _place, SPREAD_OF_PLACE_MS)
SPREAD = Followed("spread", "heard", _spread, SPREAD_OF_LOGS, is_size=True)
BY_WEEK = (LEAN, CLOCK, HAND, ALPHA, PLACE)  # of the page of progress
SINCE_FIRST = (LEAN, SPREAD, CLOCK)  # of a reading
