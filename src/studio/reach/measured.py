"""What was measured last: a few figures of the last weeks, for the page of today."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from giusto.practice.over_takes.facts import TakeFacts
from giusto.practice.over_takes.figures import LEAN, PLACE, needed, pooled
from giusto.practice.over_takes.reaches import reach_at, tempi
from giusto.tempo import slot_ms
from studio.accounts.models import Player
from studio.reach.tested import silences_until
from studio.reach.words import beats_words, bound_of, range_words, seconds_words
from studio.sheet.words import lean_words, signed_ms
from studio.takes.facts import facts_of
from studio.takes.models import Take

WEEKS, FEWEST = 4, 3  # ours: the last weeks, and takes that tell a figure


@dataclass(frozen=True, slots=True)
class LastFigure:
    """A figure: what it is, its value, what it rests on."""

    name: str
    value: str
    rests_on: str


def last_measured(player: Player, now: datetime) -> list[LastFigure]:
    """Return how long a silence is held, and what the last four weeks measured where there are enough takes."""
    start = timezone.localtime(now).date() - timedelta(weeks=WEEKS)
    takes = Take.objects.telling_of(player).filter(session__day__gte=start, started_at__lte=now)
    return [*_held(player, now), *_figures(facts_of(takes.read(), figures=needed((LEAN, PLACE))))]


def _held(player: Player, now: datetime) -> list[LastFigure]:
    known = silences_until(player, now)
    for bpm in tempi(known)[:1]:
        found = reach_at(known, bpm, now).reach
        if told := bound_of(found):
            bound, beats = told
            value = f"{bound}{beats_words(beats)}, {seconds_words(beats, slot_ms(bpm, 1) / 1000)}"
            return [LastFigure(f"You hold alone, near {bpm:.0f}", value, range_words(found))]
    return []


def _figures(takes: list[TakeFacts]) -> list[LastFigure]:
    lean, place = (pooled(figure, takes, fewest=FEWEST) for figure in (LEAN, PLACE))
    found = []
    if lean:
        low, high = sorted(lean.ci95)
        ends = f"between {lean_words(low)} and {lean_words(high)}"
        found.append(LastFigure("Lean when alone, all tempos", lean_words(lean.value), f"{ends}, {lean.takes} takes"))
    if place:
        low, high = sorted(abs(end) for end in place.ci95)
        rests_on = f"{low:.0f} to {high:.0f}, with the delay of this device, {place.takes} takes"
        found.append(LastFigure("Your place with the click", signed_ms(place.value), rests_on))
    return found
