"""Which lengths of silence are held at which tempo: the threads of the page of progress."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from math import log2

from django.db.models import Count, F, FloatField, Q
from django.db.models.functions import Cast

from giusto.hearing.inputs import Input
from studio.accounts.models import Player
from studio.takes.models import Silence, Take, TakeQuerySet

# Ours: steps of the traditional scale, far enough apart that a tempo belongs to one of them.
TEMPOS = (30, 40, 48, 60, 72, 84, 96, 108, 120, 138, 160, 184, 208, 240, 280, 320, 400)
MOST_TEMPOS = 8
FIRST_S = 1.25  # the shortest length; each further one is twice as long
# Those that are too close to call are told of nowhere.
TOLD = (Silence.Outcome.HELD, Silence.Outcome.EARLY, Silence.Outcome.LATE)
HELD_OF, FEWEST = 2 / 3, 4  # by the design: two in three, of at least four
LENGTHS_S: tuple[float, ...] = tuple(FIRST_S * 2**k for k in range(8))
LENGTHS_CYCLES = (1, 2, 4, 8, 16, 32, 64)


@dataclass(frozen=True, slots=True)
class Cell:
    """Silences of one length at one tempo: how many were tried, and held."""

    held: int
    tried: int

    @property
    def is_held(self) -> bool:
        """Whether two in three are held, of at least four."""
        return self.tried >= FEWEST and self.held >= HELD_OF * self.tried


@dataclass(frozen=True, slots=True)
class Held:
    """What is held.

    Attributes
    ----------
    tempos : tuple of int
        Those with the most silences, ascending.
    lengths : tuple of float
        That were tried, in seconds or cycles, ascending.
    cells : dict of (tempo, length) to Cell
    """

    tempos: tuple[int, ...]
    lengths: tuple[float, ...]
    cells: dict[tuple[int, float], Cell]

    def longest(self, tempo: int) -> float | None:
        """Return the longest length that is held at a tempo."""
        return max((length for length in self.lengths if self._is_held(tempo, length)), default=None)

    def _is_held(self, tempo: int, length: float) -> bool:
        cell = self.cells.get((tempo, length))
        return cell is not None and cell.is_held


def own_takes(player: Player) -> TakeQuerySet:
    """Return the takes that tell of a player: of simulated ones only the demo's."""
    takes = Take.objects.visible_to(player).ended()
    return takes if player.is_demo else takes.exclude(input=Input.SIMULATED)


def held(player: Player, start: date, end: date, *, in_cycles: bool = False) -> Held:
    """Return what was held from a day up to another, that one not included; one query."""
    rows = (
        Silence.objects.filter(take__in=own_takes(player).filter(session__day__gte=start, session__day__lt=end))
        .filter(outcome__in=TOLD)
        .annotate(cycles=Cast(F("beats"), FloatField()) / Cast(F("take__beats"), FloatField()))
        .values_list("take__tempo_bpm", "cycles" if in_cycles else "beats")
        .annotate(tried=Count("pk"), held=Count("pk", filter=Q(outcome=Silence.Outcome.HELD)))
    )
    counts: defaultdict[tuple[int, float], list[int]] = defaultdict(lambda: [0, 0])
    for bpm, length, tried, is_held in rows:
        cell = counts[_tempo(bpm), _cycles(length) if in_cycles else _seconds(60 * length / bpm)]
        cell[0] += is_held
        cell[1] += tried
    by_tempo: defaultdict[int, int] = defaultdict(int)
    for (tempo, _), (_, tried) in counts.items():
        by_tempo[tempo] += tried
    tempos = sorted(sorted(by_tempo, key=lambda tempo: -by_tempo[tempo])[:MOST_TEMPOS])
    cells = {key: Cell(*cell) for key, cell in counts.items() if key[0] in tempos}
    return Held(tuple(tempos), tuple(sorted({length for _, length in cells})), cells)


def _tempo(bpm: float) -> int:
    return min(TEMPOS, key=lambda tempo: abs(log2(bpm / tempo)))


def _seconds(seconds: float) -> float:
    return min(LENGTHS_S, key=lambda length: abs(log2(max(seconds, 0.1) / length)))


def _cycles(cycles: float) -> float:
    return min(LENGTHS_CYCLES, key=lambda length: abs(log2(max(cycles, 0.1) / length)))
