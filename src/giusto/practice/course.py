"""Is it better than before: a figure over takes, where takes of a day are alike and days carry over.

    y = line + take + day + N(0, v),   take ~ N(0, τ²),   day ~ AR(1): N(0, ω²), alike by φ to the power of days between

The line runs from the first take to the last, its ends flat; τ, ω and φ are integrated over on a grid. Takes of a day
are gathered to one value, which says as much of line and day.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import stdtrit

from giusto.arrays import FloatArray, IntArray
from giusto.missing import Missing
from giusto.pooling import ends_of_mixture
from giusto.ranges import COVERED, Range, rounded

FEWEST_TAKES, FEWEST_DAYS = 4, 2  # ours: a line through three says little, and takes of one day tell no change
TAKES = np.array([0.0, 0.3, 0.6, 0.9, 1.2])  # ours: τ over the scatter about the line
DAYS = np.array([0.0, 0.3, 0.6, 0.9])  # ours: ω, the same
CARRIES = np.array([0.0, 0.4, 0.7, 0.93])  # ours: φ from one day to the next,
LIKELY = np.array([0.3, 0.25, 0.2, 0.25])  # and how likely each is beforehand
EARLY = 8  # ours: takes up to which a page says that there are too few, unless the change is sure
DOUBT = 1 - COVERED
LEAST = 1e-3  # ours: of the scatter; no take is believed more closely
REMEMBERED = 128  # ours
MOST_DAYS = 60  # ours: more are gathered, since each costs as many as there are


@dataclass(frozen=True, slots=True)
class Course:
    """How a figure went over takes, as ``change/1`` writes it.

    Attributes
    ----------
    first, latest : float
        Where the line through the takes begins and ends.
    change : float
        Latest less first.
    ci95 : (float, float)
        Of the change; where several figures share the doubt, wider by that.
    more_than_chance : bool
        Whether that range leaves no change out.
    takes, days : int
    between_takes_sd, between_days_sd : float
        How far takes of a day, and days, differ in truth.
    """

    first: float
    latest: float
    change: float
    ci95: Range
    more_than_chance: bool
    takes: int
    days: int
    between_takes_sd: float
    between_days_sd: float

    @property
    def is_early(self) -> bool:
        """Whether so few takes tell nothing either way: of them a change is told only where it is sure."""
        return not self.more_than_chance and self.takes < EARLY

    def plain(self) -> dict[str, Any]:
        """Return it as the file has it."""
        return {
            "giusto": "change/1",
            "from": self.first,
            "to": self.latest,
            "change": self.change,
            "ci95": list(self.ci95),
            "sure": self.more_than_chance,
            "takes": self.takes,
            "days": self.days,
            "between_takes_sd": self.between_takes_sd,
            "between_days_sd": self.between_days_sd,
        }


def course(
    values: ArrayLike, sds: ArrayLike, days: Sequence[date], *, at: ArrayLike | None = None, figures: int = 1
) -> Course | Missing:
    """Return how a figure went over takes.

    Parameters
    ----------
    values, sds : array_like, shape (takes,)
        What each take says, and how sure: unshrunk, with a weak prior. Standard errors from 0.
    days : sequence of date
        The day of each, ascending.
    at : array_like, optional, shape (takes,)
        When each was, in days; by their dates where it isn't given.
    figures : int
        How many figures share the 5 % on a page.

    Returns
    -------
    Course or Missing
        ``few-takes`` for fewer than four, ``few-days`` for one day.

    References
    ----------
    Thompson & Higgins 2002, Stat Med 21:1559, random-effects regression; Jones 1993, Longitudinal data with serial
    correlation (both from memory).
    """
    y, sd = np.asarray(values, dtype=np.float64), np.asarray(sds, dtype=np.float64)
    when = None if at is None else np.asarray(at, dtype=np.float64).tobytes()
    return _remembered(y.tobytes(), sd.tobytes(), tuple(days), when, figures)


@lru_cache(maxsize=REMEMBERED)
def _remembered(values: bytes, sds: bytes, days: tuple[date, ...], at: bytes | None, figures: int) -> Course | Missing:
    """Return the course of a figure; what was asked lately is remembered, since many pages ask it of the same takes."""
    y, sd = np.frombuffer(values), np.frombuffer(sds)
    number = _periods(np.array([day.toordinal() for day in days], dtype=np.int64))
    when = number.astype(np.float64) if at is None else np.frombuffer(at)
    dates = np.unique(number)
    if y.size < FEWEST_TAKES:
        return Missing("course", "few-takes", y.size, FEWEST_TAKES)
    if dates.size < FEWEST_DAYS or np.ptp(when) == 0:
        return Missing("course", "few-days", dates.size, FEWEST_DAYS)
    x = (when - when.min()) / np.ptp(when)
    design = np.column_stack([1 - x, x])  # so that the two unknowns are where the line begins and where it ends
    scale = _scatter(design, y, sd)
    v = sd**2 + (LEAST * scale) ** 2
    fits = [_fits(design, y, v + (scale * spread) ** 2, number, dates, scale) for spread in TAKES]
    ends, cov, log_weight = (np.concatenate([fit[part] for fit in fits]) for part in range(3))
    grid = np.exp(log_weight - log_weight.max()).reshape(TAKES.size, DAYS.size, CARRIES.size) * LIKELY
    grid /= grid.sum()
    weight = grid.ravel()
    sd = np.sqrt(cov[:, 0, 0] + cov[:, 1, 1] - 2 * cov[:, 0, 1])
    wider = float(stdtrit(max(dates.size - 2, 1), 1 - DOUBT / (2 * figures)) / stdtrit(1e9, 1 - DOUBT / 2))
    first, latest = (weight @ ends).tolist()
    low, high = ends_of_mixture(ends[:, 1] - ends[:, 0], wider * sd, weight)
    takes_sd, days_sd = scale * grid.sum(axis=(1, 2)) @ TAKES, scale * grid.sum(axis=(0, 2)) @ DAYS
    return Course(
        round(first, 4),
        round(latest, 4),
        round(latest - first, 4),
        rounded((low, high)),
        low > 0 or high < 0,
        y.size,
        len(set(days)),
        round(float(takes_sd), 4),
        round(float(days_sd), 4),
    )


def unsaid(why: Missing, days: Sequence[date]) -> dict[str, Any]:
    """Return ``change/1`` of takes that tell no change, with the reason."""
    nothing = dict.fromkeys(("from", "to", "change", "ci95"))
    spreads = dict.fromkeys(("between_takes_sd", "between_days_sd"))
    counts = {"takes": len(days), "days": len(set(days))}
    return {"giusto": "change/1", **nothing, "sure": False, **counts, **spreads, "reason": why.code}


def _periods(number: IntArray) -> IntArray:
    """Return days by their numbers; where they are very many, some of them as one, so that no more than 60 are left."""
    if np.unique(number).size <= MOST_DAYS:
        return number
    width = -(-int(np.ptp(number) + 1) // MOST_DAYS)
    periods: IntArray = (number - number.min()) // width * width
    return periods


def _scatter(design: FloatArray, y: FloatArray, sd: FloatArray) -> float:
    """Return how far takes scatter about a line, their own errors in it."""
    left = y - design @ np.linalg.lstsq(design, y, rcond=None)[0]
    scatter = float(np.sqrt(np.sum(left**2) / max(y.size - 2, 1)))
    return max(scatter, float(sd.mean())) or 1.0


def _fits(
    design: FloatArray, y: FloatArray, variance: FloatArray, number: IntArray, dates: IntArray, scale: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return for each spread and carry of days the line's ends, their covariance, and the log likelihood.

    Takes of a day are gathered: to their weighed mean, at the mean of where they stand on the line, which a day is
    short for; what they differ by says how likely the spread of takes is.
    """
    of_day = (number[:, None] == dates).astype(np.float64)
    share = of_day / variance[:, None]
    precision = share.sum(axis=0)
    mean, place = (share.T @ y) / precision, (share.T @ design) / precision[:, None]
    left = y - of_day @ mean
    within = -0.5 * float(np.sum(np.log(variance)) + np.sum(left**2 / variance) + np.sum(np.log(precision)))
    apart = np.abs(dates[:, None] - dates).astype(np.float64)
    alike = np.where(apart == 0, 1.0, CARRIES[:, None, None] ** apart)  # shape (carries, days, days)
    spread = (scale * DAYS[:, None, None, None]) ** 2 * alike
    total = (spread + np.diag(1 / precision)).reshape(-1, dates.size, dates.size)
    weighed = np.linalg.solve(total, np.column_stack([place, mean]))  # shape (points, days, 3)
    weighed, of_mean = weighed[:, :, :2], weighed[:, :, 2]
    cov = np.linalg.inv(place.T @ weighed)
    ends = np.einsum("gab,gnb,n->ga", cov, weighed, mean)
    off = mean - ends @ place.T
    fit = np.einsum("gn,gn->g", off, of_mean - np.einsum("gnb,gb->gn", weighed, ends))
    log_likelihood = -0.5 * (np.linalg.slogdet(total)[1] + fit) + 0.5 * np.linalg.slogdet(cov)[1]
    return ends, cov, within + log_likelihood
