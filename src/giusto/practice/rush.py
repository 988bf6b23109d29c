"""The rush map: at which notes of a passage, or of a long cycle, takes lean again and again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from giusto.arrays import FloatArray, IntArray
from giusto.drill.position import parse, write
from giusto.figures.beat_leans import DOUBT, SPREAD_MS
from giusto.missing import Missing
from giusto.pooling import pool_each
from giusto.ranges import Z95, Range, rounded
from giusto.reading.format import Match, Missed

FEWEST_TAKES = 3  # ours: two takes can agree by chance
LEAST_SD_MS = 0.5  # ours: no take shows a place better than this
Place = tuple[int, str]


@dataclass(frozen=True, slots=True)
class PassageTake:
    """A take of a passage, and which bars it plays.

    Attributes
    ----------
    notes : sequence of Match or Missed
        All that were asked for, of its reading.
    first : int
        The number of its first bar.
    bars : int
        After how many it begins again.
    beats : tuple of int
        Of each bar, where all of them together are one cycle of the drill; else empty: then each is a cycle.
    """

    notes: Sequence[Match | Missed]
    first: int
    bars: int
    beats: tuple[int, ...] = ()

    def place(self, note: Match | Missed) -> tuple[int, Place]:
        """Return in which round a note stands, and its bar and place in that bar."""
        if not self.beats:
            turn, bar = divmod(note.cycle - 1, self.bars)
            return turn, (self.first + bar, note.position)
        at, bar = parse(note.position), 0
        while bar < len(self.beats) - 1 and at >= self.beats[bar]:
            at -= self.beats[bar]
            bar += 1
        return note.cycle - 1, (self.first + bar, write(at))


@dataclass(frozen=True, slots=True)
class Lean:
    """How a note of a passage is reached: early of what the take's own tempo lets expect, or late (positive).

    Attributes
    ----------
    bar : int
    position : str
        In it, as the drill writes it.
    takes : int
        That show it.
    gain_ms : float
    ci95_ms : (float, float)
        Widened for the number of places looked at.
    leans : bool
        Whether that range leaves 0 out.
    """

    bar: int
    position: str
    takes: int
    gain_ms: float
    ci95_ms: Range
    leans: bool


def rush_map(takes: Sequence[PassageTake]) -> list[Lean] | Missing:
    """Return how each note of a passage is reached, over takes, in the order of the bars.

    Parameters
    ----------
    takes : sequence of PassageTake
        Of the passage or of parts of it, at any tempo.

    Returns
    -------
    list of Lean or Missing
        ``few-takes`` for fewer than three.

    Notes
    -----
    What a note gains on the one before it, less the share of that time in what its round gains as a whole, is taken for
    each round and averaged over a take; takes are pooled with random effects. Ranges are widened for the number of
    places (Bonferroni), so that 95 % is the chance that none of them is wrong by luck.
    """
    shown = [found for take in takes if (found := _of_take(take))]
    if len(shown) < FEWEST_TAKES:
        return Missing("places", "few-takes", len(shown), FEWEST_TAKES)
    places: defaultdict[Place, list[tuple[float, float]]] = defaultdict(list)
    for one in shown:
        for place, mean_and_variance in one.items():
            places[place].append(mean_and_variance)
    known = {place: some for place, some in places.items() if len(some) >= FEWEST_TAKES}
    return _leans(sorted(known.items(), key=lambda item: _order(item[0]))) if known else []


def _leans(known: Sequence[tuple[Place, list[tuple[float, float]]]]) -> list[Lean]:
    """Pool each place over its takes."""
    most = max(len(some) for _, some in known)
    told = np.full((2, len(known), most), np.nan)
    for index, (_, some) in enumerate(known):
        told[:, index, : len(some)] = np.array(some).T
    mean, low, high = pool_each(told[0], told[1], scale=SPREAD_MS)
    wider = float(ndtri(1 - DOUBT / (2 * len(known)))) / Z95
    low, high = mean + wider * (low - mean), mean + wider * (high - mean)
    return [
        Lean(*place, len(some), round(m, 3), rounded((a, b)), a > 0 or b < 0)
        for (place, some), m, a, b in zip(known, mean.tolist(), low.tolist(), high.tolist(), strict=True)
    ]


def _of_take(take: PassageTake) -> dict[Place, tuple[float, float]]:
    """Return for each place of a take its mean gain and that mean's variance."""
    asked = sorted(take.notes, key=lambda note: note.expected_s)
    if len(asked) < 3:
        return {}
    at_s = np.array([note.expected_s for note in asked])
    error_ms = np.array([getattr(note, "error_ms", np.nan) for note in asked])
    places = [take.place(note) for note in asked][1:]
    rounds = np.array([turn for turn, _ in places])
    gains = _without_tempo(np.diff(error_ms), np.diff(at_s), rounds)
    by_place: defaultdict[Place, list[float]] = defaultdict(list)
    for (_, place), gain in zip(places, gains.tolist(), strict=True):
        if np.isfinite(gain):
            by_place[place].append(gain)
    variance = _variance(by_place)
    return {place: (float(np.mean(some)), variance / len(some)) for place, some in by_place.items()}


def _without_tempo(gain_ms: FloatArray, lasts_s: FloatArray, rounds: IntArray) -> FloatArray:
    """Return gains less what each round gains as a whole, in proportion to time."""
    found = np.full(gain_ms.shape, np.nan)
    for number in np.unique(rounds):
        here = (rounds == number) & np.isfinite(gain_ms)
        if np.sum(here) > 1:
            found[here] = gain_ms[here] - lasts_s[here] * (np.sum(gain_ms[here]) / np.sum(lasts_s[here]))
    return found


def _variance(by_place: dict[Place, list[float]]) -> float:
    """Return the variance of one gain: about its place's own mean, or, where no place comes twice, about all."""
    more = [np.array(some) for some in by_place.values() if len(some) > 1]
    if more:
        found = sum(float(np.sum((some - some.mean()) ** 2)) for some in more) / sum(some.size - 1 for some in more)
    else:
        found = (
            float(np.var([gain for some in by_place.values() for gain in some], ddof=1)) if len(by_place) > 1 else 0.0
        )
    return max(found, LEAST_SD_MS**2)


def _order(place: Place) -> tuple[int, float]:
    return place[0], float(parse(place[1]))
