"""The figures that are followed over takes: how each is had of a take, with its variance, and how it is pooled."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from math import exp, log

from giusto.figures.tendency import SPREAD_OF_TAKES_PERCENT, TAKES_WIDER
from giusto.missing import Missing
from giusto.pooling import pool
from giusto.practice.clean import INDEPENDENT_SHARE
from giusto.practice.course import Course, course
from giusto.practice.over_takes.facts import TakeFacts
from giusto.ranges import Range, sd_of
from giusto.tempo import slot_ms

SPREAD_OF_LOGS, SPREAD_OF_ALPHA, SPREAD_OF_PLACE_MS = 0.2, 0.15, 8.0  # ours, weak: how far takes differ in truth
LEAST_ALPHA_SD, LEAST_SD = 0.05, 1e-3
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


def course_of(followed: Followed, takes: Iterable[TakeFacts]) -> Course | Missing:
    """Return how a figure went over takes, oldest first."""
    told = [(*one, take.days) for take in takes if (one := followed.told(take))]
    values, variances, at = zip(*told, strict=True) if told else ((), (), ())
    return course(values, variances, at, scale=followed.scale)


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


def _size(size_ms: float | None, ends_ms: Range | None, unit_ms: float) -> Told | None:
    """Return the logarithm of a size, as a share of something in percent."""
    if not size_ms or not ends_ms:
        return None
    low, high = (log(max(end, LEAST_SD)) for end in ends_ms)
    return log(100 * size_ms / unit_ms), max(sd_of((low, high)), LEAST_SD) ** 2


def _clock(take: TakeFacts) -> Told | None:
    parts = take.figures and take.figures.variability
    return _size(parts.clock_sd_ms, parts.clock_ci95_ms, slot_ms(take.tempo_bpm, take.slots)) if parts else None


def _hand(take: TakeFacts) -> Told | None:
    parts = take.figures and take.figures.variability
    return _size(parts.motor_sd_ms, parts.motor_ci95_ms, 100.0) if parts else None


def _spread(take: TakeFacts) -> Told | None:
    """Return the logarithm of the spread with the click in percent of a slot; more notes tell it better."""
    heard = take.figures and take.figures.heard
    independent = INDEPENDENT_SHARE * heard.n if heard else 0.0
    if not heard or not heard.sd_ms or independent <= LEAST_INDEPENDENT:
        return None
    return log(100 * heard.sd_ms / slot_ms(take.tempo_bpm, take.slots)), 1 / (2 * (independent - 1))


def _alpha(take: TakeFacts) -> Told | None:
    found = take.figures and take.figures.correction
    return (found.alpha, max(sd_of(found.ci95), LEAST_ALPHA_SD) ** 2) if found else None


def _place(take: TakeFacts) -> Told | None:
    heard = take.figures and take.figures.heard
    if take.place_ms is None or not take.spread_ms or not heard or not heard.n:
        return None
    return take.place_ms, take.spread_ms**2 / max(INDEPENDENT_SHARE * heard.n, 1.0)


LEAN = Followed("lean", "tendency", _lean, SPREAD_OF_TAKES_PERCENT, wider=TAKES_WIDER)
CLOCK = Followed("clock", "variability", _clock, SPREAD_OF_LOGS, is_size=True)
HAND = Followed("hand", "variability", _hand, SPREAD_OF_LOGS, is_size=True)
ALPHA = Followed("alpha", "correction", _alpha, SPREAD_OF_ALPHA)
PLACE = Followed("place", "heard", _place, SPREAD_OF_PLACE_MS)
SPREAD = Followed("spread", "heard", _spread, SPREAD_OF_LOGS, is_size=True)
BY_WEEK = (LEAN, CLOCK, HAND, ALPHA, PLACE)  # of the page of progress
SINCE_FIRST = (LEAN, SPREAD, CLOCK)  # of a reading
