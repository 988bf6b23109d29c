"""What the weeks hold beside the plan: minutes that were played, and overnight checks that fall due."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, datetime

from django.db.models import Sum

from giusto.practice.ladder import Why
from studio.accounts.models import Player
from studio.ladders.models import Ladder
from studio.ladders.parts import Climbs
from studio.ladders.standing import LadderStanding, standings
from studio.ladders.words import rung_word
from studio.takes.models import Take


def minutes_by_day(player: Player, start: date, end: date) -> dict[date, int]:
    """Return the minutes played on each day from the first up to the last, the last one not included; one query."""
    takes = Take.objects.telling_of(player).filter(session__day__gte=start, session__day__lt=end)
    rows = takes.values_list("session__day").annotate(total=Sum("reading__played_s"))
    return {day: round((total or 0.0) / 60) for day, total in rows}


def due_today(climbs: Climbs) -> list[LadderStanding]:
    """Return the ladders climbed to their edge whose overnight check is due today."""
    return [one for one in climbs.by_exercise.values() if one.step.why is Why.OVERNIGHT]


def due_checks(player: Player, now: datetime) -> dict[date, list[str]]:
    """Return the overnight checks by the day on which they are due: of ladders that are climbed to their edge."""
    ladders = Ladder.objects.visible_to(player).filter(spec__rule__kind="edge").select_related("exercise", "player")
    found: defaultdict[date, list[str]] = defaultdict(list)
    for one in standings(ladders, now):
        if edge := one.step.edge:
            found[edge.until].append(f"{one.ladder.name}: {rung_word(one.ladder.core, edge.rung)} was the edge")
    return found
