"""The rush map: at which notes of a passage, or of a long cycle, takes lean again and again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import scipy
from scipy.special import stdtrit

from giusto.arrays import FloatArray, IntArray
from giusto.drill import Drill
from giusto.drill.file import Segment
from giusto.drill.position import parse, write
from giusto.figures.beat_leans import DOUBT, SPREAD_MS
from giusto.missing import Missing
from giusto.pooling import pool_each
from giusto.ranges import Z95, Range, rounded
from giusto.reading import Reading
from giusto.reading.format import Match, Missed
from giusto.schedule import Schedule

FEWEST_TAKES = 3  # ours: two takes can agree by chance
FEWEST_TIMES = 4  # ours: that a place was played, in all
RECOVERY_BEATS = 4  # ours: after a return, in which an error is taken back
EARLY_S = 1e-4
LEAST_SD_MS = 0.5  # ours: no note shows a place better than this
FITTED = 6.0  # ours: gains that the line through all lengths of step counts as, beside those of a step's own length
SAME_STEP = 3  # digits of a step in beats, by which steps are of one length
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
        bar, position = _in_bars(note.position, self.beats)
        return note.cycle - 1, (self.first + bar, position)


@lru_cache(maxsize=1024)
def _in_bars(position: str, beats: tuple[int, ...]) -> tuple[int, str]:
    """Return in which of some bars a place of their cycle lies, and which place of that bar it is."""
    at, bar = parse(position), 0
    while bar < len(beats) - 1 and at >= beats[bar]:
        at -= beats[bar]
        bar += 1
    return bar, write(at)


@dataclass(frozen=True, slots=True)
class Lean:
    """How a note of a passage is reached: early of what the take's own tempo lets expect, or late (positive).

    Attributes
    ----------
    bar : int
    position : str
        In it, as the drill writes it.
    takes, times : int
        That show it, and how often it was played in them.
    gain_ms : float
    ci95_ms : (float, float)
        Widened for the number of places looked at.
    leans : bool
        Whether that range leaves 0 out.
    """

    bar: int
    position: str
    takes: int
    times: int
    gain_ms: float
    ci95_ms: Range
    leans: bool


@dataclass(frozen=True, slots=True)
class _Gains:
    """What each note gained on the one before it, a row each, in the order of the takes.

    Attributes
    ----------
    take, place : array of int
        Of which take, and the index of its place in ``places``.
    gain_ms : array
    step : array
        How long that step was asked to last, as a multiple of its take's shortest.
    places : list of Place
    """

    take: IntArray
    place: IntArray
    gain_ms: FloatArray
    step: FloatArray
    places: list[Place]


def rush_map(takes: Sequence[PassageTake], *, fewest: int = FEWEST_TAKES) -> list[Lean] | Missing:
    """Return how each note of a passage is reached, over takes, in the order of the bars.

    Parameters
    ----------
    takes : sequence of PassageTake
        Of the passage or of parts of it, at any tempo.
    fewest : int
        Takes without which nothing is told.

    Returns
    -------
    list of Lean or Missing
        ``few-takes`` for fewer.

    Notes
    -----
    What a note gains on the one before it, less the share of that time in what its round gains as a whole, is taken for
    each round and averaged over a take; takes are pooled with random effects. A gain varies by both notes' hands and by
    the clock, the more the longer the step: by 2 · hand² + clock² · step², fitted over all places, and by what steps of
    that very length show. Ranges are Student's, widened for the number of places (Bonferroni), so that 95 % is the
    chance that none of them is wrong by luck.

    References
    ----------
    Wing & Kristofferson 1973 (from memory); the shrunken variances as Smyth 2004, Stat Appl Genet Mol Biol 3:3 (from
    memory).
    """
    gains = _gains(takes)
    shown = len(np.unique(gains.take))
    if shown < fewest:
        return Missing("places", "few-takes", shown, fewest)
    means = _means(gains)
    in_takes, times = np.bincount(means.place), np.bincount(gains.place)
    known = np.flatnonzero((in_takes >= fewest) & (times >= FEWEST_TIMES)).tolist()
    return _leans(sorted(known, key=lambda place: _order(gains.places[place])), gains, means) if known else []


def map_of(schedule: Schedule, readings: Sequence[Reading], *, beats: bool = False) -> list[Lean] | Missing:
    """Return how each note of a drill's cycles is reached, over takes of it: one will do, if it has rounds enough.

    What is played on hearing the click again is no place of the cycle, and left out.

    Parameters
    ----------
    schedule : Schedule
    readings : sequence of Reading
    beats : bool
        Whether only notes on the beat are looked at, so that a rhythm within all beats is no place of the cycle.
    """
    turn = turn_of(schedule.drill)
    some = [_settled(schedule, one) for one in readings]
    if beats:
        some = [[note for note in notes if "+" not in note.position] for notes in some]
    return rush_map([PassageTake(notes, first=1, bars=turn) for notes in some], fewest=1)


def _settled(schedule: Schedule, reading: Reading) -> list[Match | Missed]:
    """Return the asked notes of a reading, those of the first beats after a silence as if they had been missed."""
    returns_s = schedule.seconds(np.array([one.end_tick for one in schedule.silences], dtype=np.int64))
    settled_s = returns_s + RECOVERY_BEATS * schedule.beat_s

    def is_settled(note: Match) -> bool:
        return not np.any((note.expected_s > returns_s - EARLY_S) & (note.expected_s < settled_s))

    return [
        *reading.missed,
        *(note if is_settled(note) else Missed(note.cycle, note.position, note.expected_s) for note in reading.matches),
    ]


def turn_of(drill: Drill) -> int:
    """Return after how many cycles a drill's part begins again."""
    return sum(part.cycles for part in drill.part.play if isinstance(part, Segment)) or 1


def plain_map(found: list[Lean] | Missing, takes: int) -> dict[str, Any]:
    """Return a map as ``rush/1`` has it."""
    if isinstance(found, Missing):
        return {"giusto": "rush/1", "takes": takes, "places": [], "reason": found.code}
    places = [
        {
            "cycle": one.bar,
            "position": one.position,
            "gain_ms": one.gain_ms,
            "ci95_ms": list(one.ci95_ms),
            "sure": one.leans,
        }
        for one in found
    ]
    return {"giusto": "rush/1", "takes": takes, "places": places}


def _leans(known: Sequence[int], gains: _Gains, means: _Means) -> list[Lean]:
    """Pool each place over its takes."""
    some = [np.flatnonzero(means.place == place) for place in known]
    told = np.full((2, len(known), max(map(len, some))), np.nan)
    for index, rows in enumerate(some):
        told[:, index, : len(rows)] = means.gain_ms[rows], 1 / means.times[rows]
    variance, free = _Spread(gains).of(means.step[[rows[0] for rows in some]])
    mean, low, high, _ = pool_each(told[0], told[1] * variance[:, None], scale=SPREAD_MS)
    wider = stdtrit(free, 1 - DOUBT / (2 * len(known))) / Z95
    low, high = mean + wider * (low - mean), mean + wider * (high - mean)
    found = []
    for index, (place, rows) in enumerate(zip(known, some, strict=True)):
        bar, position = gains.places[place]
        gain_ms, ends = float(mean[index]), (float(low[index]), float(high[index]))
        leans = ends[0] > 0 or ends[1] < 0
        times = int(means.times[rows].sum())
        found.append(Lean(bar, position, len(rows), times, round(gain_ms, 3), rounded(ends), leans))
    return found


@dataclass(frozen=True, slots=True)
class _Means:
    """What a place gained in a take, in the mean of its rounds, and how many these were: a row each, take by take."""

    place: IntArray
    gain_ms: FloatArray
    step: FloatArray
    times: IntArray


def _means(gains: _Gains) -> _Means:
    """Return the mean gain of each place in each take."""
    of_take = gains.take * len(gains.places) + gains.place
    _, first, which, times = np.unique(of_take, return_index=True, return_inverse=True, return_counts=True)
    return _Means(gains.place[first], np.bincount(which, gains.gain_ms) / times, gains.step[first], times)


class _Spread:
    """How far gains vary, by how long their step is: fitted over all lengths, and by those of a length itself."""

    def __init__(self, gains: _Gains) -> None:
        _, first, group, count = np.unique(_groups(gains), return_index=True, return_inverse=True, return_counts=True)
        mean = np.bincount(group, gains.gain_ms) / count
        squares = np.bincount(group, (gains.gain_ms - mean[group]) ** 2)
        self._steps, length = np.unique(gains.step[first], return_inverse=True)
        self._squares, self._free = np.bincount(length, squares), np.bincount(length, count - 1.0).astype(np.float64)
        told = self._free > 0
        self._line = _line(self._steps[told], self._squares[told] / self._free[told], self._free[told])

    def of(self, step: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return the variance of one gain over steps of lengths that there are, in ms², and its degrees of freedom."""
        at = np.searchsorted(self._steps, step)
        fitted = self._line[0] + self._line[1] * step**2
        free = self._free[at] + FITTED
        return np.maximum((self._squares[at] + FITTED * fitted) / free, LEAST_SD_MS**2), free


def _groups(gains: _Gains) -> IntArray:
    """Return each row's group, about whose mean it varies: its place in its take, or in all where each has it once."""
    of_take = (gains.take + 1) * len(gains.places) + gains.place
    _, which, times = np.unique(of_take, return_inverse=True, return_counts=True)
    again = np.bincount(gains.place, times[which] > 1) > 0
    return np.where(again[gains.place], of_take, gains.place)


def _line(steps: FloatArray, variance: FloatArray, free: FloatArray) -> tuple[float, float]:
    """Return what of the variance is there whatever the step, and what grows with its square; neither below 0."""
    if not steps.size:
        return 0.0, 0.0
    design = np.column_stack([np.ones(steps.size), steps**2])
    weight = np.sqrt(free / np.maximum(variance, LEAST_SD_MS**2) ** 2)
    (hand, clock), _ = scipy.optimize.nnls(design * weight[:, None], variance * weight)
    return float(hand), float(clock)


def _gains(takes: Sequence[PassageTake]) -> _Gains:
    """Return what each note of each take gained on the one before it, less its round's own tempo."""
    index: dict[Place, int] = {}
    rows = [_gains_of(number, take, index) for number, take in enumerate(takes)]
    take, place, gain_ms, step = np.concatenate(rows or [np.empty((4, 0))], axis=1)
    return _Gains(take.astype(np.int64), place.astype(np.int64), gain_ms, step, list(index))


def _gains_of(number: int, take: PassageTake, index: dict[Place, int]) -> FloatArray:
    """Return a take's columns, shape (4, n), in the order of ``_Gains``; places that are new get the next index."""
    asked = sorted(take.notes, key=lambda note: note.expected_s)
    if len(asked) < 3:
        return np.empty((4, 0))
    at_s = np.array([note.expected_s for note in asked])
    error_ms = np.array([getattr(note, "error_ms", np.nan) for note in asked])
    places = [take.place(note) for note in asked][1:]
    lasts_s = np.diff(at_s)
    gain_ms = _without_tempo(np.diff(error_ms), lasts_s, np.array([turn for turn, _ in places]))
    there = np.isfinite(gain_ms)
    of_place = np.array([index.setdefault(place, len(index)) for _, place in places])
    step = np.round(lasts_s / lasts_s.min(), SAME_STEP)
    return np.stack([np.full(there.sum(), number), of_place[there], gain_ms[there], step[there]])


def _without_tempo(gain_ms: FloatArray, lasts_s: FloatArray, rounds: IntArray) -> FloatArray:
    """Return gains less what each round gains as a whole, in proportion to time; NaN where a round has one alone."""
    _, turn = np.unique(rounds, return_inverse=True)
    there = np.isfinite(gain_ms)
    gained, lasted = (np.bincount(turn, np.where(there, some, 0.0)) for some in (gain_ms, lasts_s))
    is_told = there & (np.bincount(turn, there)[turn] > 1)
    with np.errstate(invalid="ignore"):  # a round of which nothing was played
        return np.where(is_told, gain_ms - lasts_s * (gained / lasted)[turn], np.nan)


def _order(place: Place) -> tuple[int, float]:
    return place[0], float(parse(place[1]))
