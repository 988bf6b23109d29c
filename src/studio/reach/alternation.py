"""Click, no click, click: what each take showed, and whether those alone come to stand like the others."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import OuterRef, Subquery, Sum

from giusto.missing import Missing
from giusto.practice.dependence import Dependence, Side, dependence
from giusto.tempo import slot_ms
from studio.accounts.models import Player
from studio.reach.tested import near
from studio.takes.models import Silence

MOST_TAKES, SHOWN = 40, 8  # ours: the newest
FEWEST_INTERVALS = 24  # ours: on one side of a take; fewer say little of a spread
SECONDS_A_DAY = 86_400
COLUMNS = (
    "pk",
    "started_at",
    "drill_name",
    "tempo_bpm",
    "slots",
    "reading__interval_sd_ms",
    "reading__tempo_percent",
    "reading__brief__heard",
)


@dataclass(frozen=True, slots=True)
class Showed:
    """What one take showed on either side, in percent of a slot; None where it has no such side."""

    take: UUID
    at: datetime
    name: str
    with_percent: float | None
    alone_percent: float | None
    lean_percent: float | None


@dataclass(frozen=True, slots=True)
class Alternation:
    """The takes, the newest first, and how the two sides stand to one another."""

    takes: list[Showed]
    found: Dependence | Missing


def alternation(player: Player, bpm: float) -> Alternation:
    """Return what takes near a tempo showed with the click and without; one query."""
    of_take = Silence.objects.filter(take=OuterRef("pk")).order_by().values("take")
    alone = of_take.annotate(total=Sum("notes")).values("total")
    takes_near = near(player, bpm).read().annotate(alone=Subquery(alone)).order_by("-started_at")
    rows = takes_near.values(*COLUMNS, "alone")[:MOST_TAKES]
    sides, takes = [], []
    for row in rows:
        found = _sides(row)
        sides += found
        by_side = {side.is_alone: side.spread_percent for side in found}
        takes.append(
            Showed(
                row["pk"],
                row["started_at"],
                row["drill_name"],
                by_side.get(False),
                by_side.get(True),
                row["reading__tempo_percent"],
            )
        )
    return Alternation(takes[:SHOWN], dependence(sides))


def _sides(row: dict[str, Any]) -> list[Side]:
    heard = row["reading__brief__heard"] or {}
    measured = (
        (False, heard.get("interval_sd_ms"), heard.get("n", 0)),
        (True, row["reading__interval_sd_ms"], row["alone"] or 0),
    )
    return list(_kept(row, measured))


def _kept(row: dict[str, Any], measured: Iterable[tuple[bool, float | None, int]]) -> Iterable[Side]:
    day = row["started_at"].timestamp() / SECONDS_A_DAY
    for is_alone, sd_ms, n in measured:
        if sd_ms and n >= FEWEST_INTERVALS:
            yield Side(day, is_alone, 100 * sd_ms / slot_ms(row["tempo_bpm"], row["slots"]), int(n))
