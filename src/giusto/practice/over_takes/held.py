"""Which lengths of silence are held at which tempo, counted."""

from __future__ import annotations

from bisect import bisect_left
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from math import sqrt
from typing import TypeVar

from giusto.practice.over_takes.facts import SilenceFacts
from giusto.tempo import SECONDS_PER_MINUTE

# Ours: steps of the traditional scale, far enough apart that a tempo belongs to one of them.
TEMPOS = (30, 40, 48, 60, 72, 84, 96, 108, 120, 138, 160, 184, 208, 240, 280, 320, 400)
MOST_TEMPOS = 8
FIRST_S = 1.25  # the shortest length; each further one is twice as long
TOLD = ("held", "early", "late")  # those that are too close to call are told of nowhere
HELD_OF, FEWEST_TRIED = 2 / 3, 4  # by the design: two in three, of at least four
LENGTHS_S: tuple[float, ...] = tuple(FIRST_S * 2**k for k in range(8))
LENGTHS_CYCLES = (1, 2, 4, 8, 16, 32, 64)
Step = TypeVar("Step", int, float)


@dataclass(frozen=True, slots=True)
class Cell:
    """Silences of one length at one tempo: how many were tried, and held."""

    held: int
    tried: int

    @property
    def is_held(self) -> bool:
        """Whether two in three are held, of at least four."""
        return self.tried >= FEWEST_TRIED and self.held >= HELD_OF * self.tried


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


def held(silences: Iterable[SilenceFacts], *, in_cycles: bool = False) -> Held:
    """Return what is held, of silences that can be called; lengths in seconds, or in cycles."""
    counts: defaultdict[tuple[int, float], list[int]] = defaultdict(lambda: [0, 0])
    for one in silences:
        if one.outcome in TOLD:
            cell = counts[_nearest(one.tempo_bpm, TEMPOS), _length(one, in_cycles=in_cycles)]
            cell[0] += one.is_held
            cell[1] += 1
    by_tempo: defaultdict[int, int] = defaultdict(int)
    for (tempo, _), (_, tried) in counts.items():
        by_tempo[tempo] += tried
    tempos = sorted(sorted(by_tempo, key=lambda tempo: -by_tempo[tempo])[:MOST_TEMPOS])
    cells = {key: Cell(*cell) for key, cell in counts.items() if key[0] in tempos}
    return Held(tuple(tempos), tuple(sorted({length for _, length in cells})), cells)


def _length(one: SilenceFacts, *, in_cycles: bool) -> float:
    if in_cycles:
        return float(_nearest(one.beats / one.cycle_beats, LENGTHS_CYCLES))
    return _nearest(SECONDS_PER_MINUTE * one.beats / one.tempo_bpm, LENGTHS_S)


def _nearest(value: float, steps: tuple[Step, ...]) -> Step:
    """Return the step that a value is nearest to, in octaves."""
    return steps[bisect_left(_borders(steps), value)]


@cache
def _borders(steps: tuple[Step, ...]) -> list[float]:
    """Return where one step gives way to the next: halfway in octaves."""
    return [sqrt(a * b) for a, b in pairwise(steps)]
