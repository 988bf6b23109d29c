"""What was measured last: a few figures for the page of today and the month."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.utils import timezone

from giusto.figures.tendency import SPREAD_OF_TAKES_PERCENT, TAKES_WIDER
from giusto.pooling import pool
from studio.accounts.models import Player
from studio.progress.held import held
from studio.progress.weekly import KINDS, rows_of
from studio.sheet.words import NBSP, lean_words

WEEKS = 4


@dataclass(frozen=True, slots=True)
class Measured:
    """A figure: what it is, its value, what it rests on."""

    name: str
    value: str
    rests_on: str


def last_measured(player: Player, now: datetime) -> list[Measured]:
    """Return what the last four weeks measured; nothing where there are too few takes."""
    today = timezone.localtime(now).date()
    start, end = today - timedelta(weeks=WEEKS), today + timedelta(days=1)
    return [*_held(player, start, end), *_leans(player, start, end)]


def _held(player: Player, start: date, end: date) -> list[Measured]:
    found = held(player, start, end)
    some = [(found.longest(tempo) or 0.0, tempo) for tempo in found.tempos]
    if not some or not max(some)[0]:
        return []
    length, tempo = max(some)
    cell = found.cells[tempo, length]
    return [Measured(f"Longest silence held near {tempo}", f"{length:g} s", f"{cell.held} of {cell.tried} silences")]


def _leans(player: Player, start: date, end: date) -> list[Measured]:
    rows = rows_of(player, start, end)
    lean, place = (next(kind for kind in KINDS if kind.key == key) for key in ("lean", "place"))
    found = []
    told = [one for row in rows if (one := lean.told(row))]
    if len(told) >= 3:
        pooled = pool(*zip(*told, strict=True), scale=SPREAD_OF_TAKES_PERCENT)
        low, high = sorted(pooled.mean + TAKES_WIDER * (end - pooled.mean) for end in pooled.ci95)
        ends = f"between {lean_words(low)} and {lean_words(high)}"
        found.append(Measured("Lean when alone, all tempos", lean_words(pooled.mean), f"{ends}, {len(told)} takes"))
    told = [one for row in rows if (one := place.told(row))]
    if len(told) >= 3:
        pooled = pool(*zip(*told, strict=True), scale=place.scale)
        side = "after" if pooled.mean > 0 else "before"
        low, high = sorted(abs(end) for end in pooled.ci95)
        found.append(
            Measured(
                "Your place with the click",
                f"{abs(pooled.mean):.0f}{NBSP}ms {side}",
                f"{low:.0f} to {high:.0f}, with the delay of this device, {len(told)} takes",
            )
        )
    return found
