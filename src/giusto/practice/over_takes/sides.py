"""What takes show with the click and without it, in percent of a slot."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.practice.dependence import Side
from giusto.practice.over_takes.facts import TakeFacts
from giusto.tempo import slot_ms

NEEDED = ("heard", "variability", "tendency")
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


def sides_of(take: TakeFacts, notes_alone: int) -> Sides:
    """Return what a take showed with the click and without: by its figures ``NEEDED``.

    Parameters
    ----------
    take : TakeFacts
    notes_alone : int
        Caught in its silences.
    """
    figures = take.figures
    heard, parts = (figures.heard, figures.variability) if figures else (None, None)
    return Sides(
        take,
        _side(take, heard.interval_sd_ms, heard.n, is_alone=False) if heard else None,
        _side(take, parts.interval_sd_ms, notes_alone, is_alone=True) if parts else None,
    )


def _side(take: TakeFacts, sd_ms: float | None, n: int, *, is_alone: bool) -> Side | None:
    if not sd_ms or n < FEWEST_INTERVALS:
        return None
    return Side(take.days, take.day, is_alone, 100 * sd_ms / slot_ms(take.tempo_bpm, take.slots), n)
