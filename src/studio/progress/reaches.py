"""Reach over time: the length that is held three times in four, in three spans of the weeks that are shown."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from django.utils import timezone

from giusto.practice.reach import Reach, reach
from studio.accounts.models import Player
from studio.reach.tested import near, tempi
from studio.takes.facts import silences_of

SPANS, MOST, FEWEST = 3, 200, 8  # ours


@dataclass(frozen=True, slots=True)
class ReachSpan:
    """Reach near a tempo in some weeks."""

    start: date
    end: date
    bpm: float
    found: Reach


def reach_by_span(player: Player, start: date, end: date) -> list[ReachSpan]:
    """Return reach near the tempo that was played last; spans with too few silences are left out."""
    some = tempi(player)
    if not some:
        return []
    bpm, length = some[0], (end - start) / SPANS
    found = []
    takes = near(player, bpm).filter(session__day__gte=start, session__day__lt=end)
    zone = timezone.get_current_timezone()
    silences = [(one, one.at.astimezone(zone).date()) for one in silences_of(takes) if one.is_readable]
    for index in range(SPANS):
        first, last = start + index * length, start + (index + 1) * length
        told = [one for one, day in silences if first <= day < last][:MOST]
        if len(told) >= FEWEST:
            one = reach([silence.beats for silence in told], [silence.is_held for silence in told])
            found.append(ReachSpan(first, last - timedelta(days=1), bpm, one))
    return found
