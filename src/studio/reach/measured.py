"""What was measured last: a few figures of the last weeks, for the page of today."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from giusto.practice.over_takes.facts import SilenceFacts, TakeFacts
from giusto.practice.over_takes.figures import LEAN, PLACE, needed, pooled
from giusto.practice.over_takes.held import held
from studio.accounts.models import Player
from studio.sheet.words import NBSP, lean_words
from studio.takes.facts import facts_of, silences_of
from studio.takes.models import Take

WEEKS, FEWEST = 4, 3  # ours: the last weeks, and takes that tell a figure


@dataclass(frozen=True, slots=True)
class LastFigure:
    """A figure: what it is, its value, what it rests on."""

    name: str
    value: str
    rests_on: str


def last_measured(player: Player, now: datetime) -> list[LastFigure]:
    """Return what the last four weeks measured; nothing where there are too few takes."""
    start = timezone.localtime(now).date() - timedelta(weeks=WEEKS)
    takes = Take.objects.telling_of(player).filter(session__day__gte=start, started_at__lte=now)
    return [*_held(silences_of(takes)), *_figures(facts_of(takes.read(), figures=needed((LEAN, PLACE))))]


def _held(silences: list[SilenceFacts]) -> list[LastFigure]:
    found = held(silences)
    some = [(found.longest(tempo) or 0.0, tempo) for tempo in found.tempos]
    if not some or not max(some)[0]:
        return []
    length, tempo = max(some)
    cell = found.cells[tempo, length]
    return [LastFigure(f"Longest silence held near {tempo}", f"{length:g} s", f"{cell.held} of {cell.tried} silences")]


def _figures(takes: list[TakeFacts]) -> list[LastFigure]:
    lean, place = (pooled(figure, takes, fewest=FEWEST) for figure in (LEAN, PLACE))
    found = []
    if lean:
        low, high = sorted(lean.ci95)
        ends = f"between {lean_words(low)} and {lean_words(high)}"
        found.append(LastFigure("Lean when alone, all tempos", lean_words(lean.value), f"{ends}, {lean.takes} takes"))
    if place:
        side = "after" if place.value > 0 else "before"
        low, high = sorted(abs(end) for end in place.ci95)
        rests_on = f"{low:.0f} to {high:.0f}, with the delay of this device, {place.takes} takes"
        found.append(LastFigure("Your place with the click", f"{abs(place.value):.0f}{NBSP}ms {side}", rests_on))
    return found
