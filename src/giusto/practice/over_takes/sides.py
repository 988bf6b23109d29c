"""What takes show with the click and without it, in percent of a slot."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.practice.dependence import Side
from giusto.practice.over_takes.facts import TakeFacts
from giusto.tempo import slot_ms

FEWEST_INTERVALS = 24  # ours: on one side of a take; fewer say little of a spread


@dataclass(frozen=True, slots=True)
class Sides:
    """What one take showed on either side; None where it has no such side."""

    take: TakeFacts
    with_click: Side | None
    alone: Side | None

    @property
    def there(self) -> list[Side]:
        """The sides that the take has."""
        return [side for side in (self.with_click, self.alone) if side]


def sides_of(take: TakeFacts) -> Sides:
    """Return what a take showed with the click and without; it needs its figures."""
    figures = take.figures
    if figures is None:
        return Sides(take, None, None)
    alone_sd_ms = figures.variability.interval_sd_ms if figures.variability else None
    return Sides(
        take,
        _side(take, figures.heard.interval_sd_ms, figures.heard.n, is_alone=False),
        _side(take, alone_sd_ms, sum(silence.notes for silence in figures.silences), is_alone=True),
    )


def _side(take: TakeFacts, sd_ms: float | None, n: int, *, is_alone: bool) -> Side | None:
    if not sd_ms or n < FEWEST_INTERVALS:
        return None
    return Side(take.days, is_alone, 100 * sd_ms / slot_ms(take.tempo_bpm, take.slots), n)
