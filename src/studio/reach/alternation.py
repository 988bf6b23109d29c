"""Click, no click, click: what each take showed, and whether those alone come to stand like the others."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.missing import Missing
from giusto.practice.dependence import Dependence, dependence
from giusto.practice.over_takes.reaches import NEAR
from giusto.practice.over_takes.sides import NEEDED, Sides, sides_of
from studio.accounts.models import Player
from studio.takes.facts import facts_of, notes_alone
from studio.takes.models import Take, TakeQuerySet

MOST_TAKES, SHOWN = 40, 8  # ours: the newest


@dataclass(frozen=True, slots=True)
class Alternation:
    """The takes, the newest first, and how the two sides stand to one another."""

    takes: list[Sides]
    found: Dependence | Missing


def _near(player: Player, bpm: float) -> TakeQuerySet:
    return Take.objects.telling_of(player).filter(tempo_bpm__range=(bpm * (1 - NEAR), bpm * (1 + NEAR)))


def alternation(player: Player, bpm: float) -> Alternation:
    """Return what takes near a tempo showed with the click and without; two queries."""
    takes = facts_of(_near(player, bpm).read().order_by("-started_at")[:MOST_TAKES], figures=NEEDED)
    alone = notes_alone(Take.objects.these(take.take for take in takes))
    sides = [sides_of(take, alone[take.take]) for take in takes]
    return Alternation(sides[:SHOWN], dependence([side for one in sides for side in one.there]))
