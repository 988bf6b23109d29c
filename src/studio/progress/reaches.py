"""Reach over time: what it was at the end of each of three spans of the weeks that are shown, near the latest tempo."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from django.utils import timezone

from giusto.practice.over_takes.facts import SilenceFacts
from giusto.practice.over_takes.reaches import ReachAt, reach_at

SPANS = 3  # ours


@dataclass(frozen=True, slots=True)
class ReachThen:
    """Reach near a tempo as it stood at the end of a day."""

    day: date
    at: ReachAt


def end_of(day: date) -> datetime:
    """Return when a day ends, by the player's clock."""
    return datetime.combine(day + timedelta(days=1), time(), tzinfo=timezone.get_current_timezone())


def reaches_then(silences: Sequence[SilenceFacts], start: date, until: date, now: ReachAt) -> list[ReachThen]:
    """Return how reach came to what it is now: at the end of each span, by what there was to go by then.

    Parameters
    ----------
    silences : sequence of SilenceFacts
    start, until : date
        The first day that is shown, and the last.
    now : ReachAt
        At the last.
    """
    days = (until - start) / SPANS
    found = []
    for index in range(1, SPANS):
        day = start + index * days
        end = end_of(day)
        then = reach_at([one for one in silences if one.at < end], now.bpm, end)
        if then.reach.beats is not None:
            found.append(ReachThen(day, then))
    return [*found, ReachThen(until, now)]
