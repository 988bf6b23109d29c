"""The rush map: at which notes of a passage, or of a long cycle, takes lean again and again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
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
class _Gain:
    """What one note gained on the one before it, in one round of a take, and how long that step was asked to last."""

    take: int
    place: Place
    gain_ms: float
    step: float


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
    gains = [gain for number, take in enumerate(takes) for gain in _gains(number, take)]
    shown = len({gain.take for gain in gains})
    if shown < fewest:
        return Missing("places", "few-takes", shown, fewest)
    places: defaultdict[Place, list[_Gain]] = defaultdict(list)
    for gain in gains:
        places[gain.place].append(gain)
    known = {
        place: some
        for place, some in places.items()
        if len({gain.take for gain in some}) >= fewest and len(some) >= FEWEST_TIMES
    }
    return _leans(sorted(known.items(), key=lambda item: _order(item[0])), places) if known else []


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


def _leans(known: Sequence[tuple[Place, list[_Gain]]], places: dict[Place, list[_Gain]]) -> list[Lean]:
    """Pool each place over its takes."""
    spread = _Spread(places.values())
    rows = [_by_take(some, spread) for _, some in known]
    most = max(len(row) for row in rows)
    told = np.full((2, len(known), most), np.nan)
    for index, row in enumerate(rows):
        told[:, index, : len(row)] = np.array(row).T
    mean, low, high, _ = pool_each(told[0], told[1], scale=SPREAD_MS)
    free = np.array([spread.free(some[0].step) for _, some in known])
    wider = stdtrit(free, 1 - DOUBT / (2 * len(known))) / Z95
    low, high = mean + wider * (low - mean), mean + wider * (high - mean)
    return [
        Lean(*place, len(row), len(some), round(m, 3), rounded((a, b)), a > 0 or b < 0)
        for (place, some), row, m, a, b in zip(known, rows, mean.tolist(), low.tolist(), high.tolist(), strict=True)
    ]


def _by_take(some: Sequence[_Gain], spread: _Spread) -> list[tuple[float, float]]:
    """Return the mean gain of a place in each take, and that mean's variance."""
    of_take: defaultdict[int, list[float]] = defaultdict(list)
    for gain in some:
        of_take[gain.take].append(gain.gain_ms)
    variance = spread.variance(some[0].step)
    return [(sum(gains) / len(gains), variance / len(gains)) for gains in of_take.values()]


class _Spread:
    """How far gains vary, by how long their step is: fitted over all lengths, and by those of a length itself."""

    def __init__(self, places: Iterable[Sequence[_Gain]]) -> None:
        squares: defaultdict[float, float] = defaultdict(float)
        free: defaultdict[float, float] = defaultdict(float)
        for some in places:
            for group in _groups(some):
                step, mean = group[0].step, sum(gain.gain_ms for gain in group) / len(group)
                squares[step] += sum((gain.gain_ms - mean) ** 2 for gain in group)
                free[step] += len(group) - 1
        self._squares, self._free = squares, free
        steps = [step for step, count in free.items() if count]
        self._line = _line(
            np.array(steps), np.array([squares[s] / free[s] for s in steps]), np.array([free[s] for s in steps])
        )

    def variance(self, step: float) -> float:
        """Return the variance of one gain over a step of some length, in ms²."""
        fitted = self._line[0] + self._line[1] * step**2
        found = (self._squares[step] + FITTED * fitted) / (self._free[step] + FITTED)
        return max(found, LEAST_SD_MS**2)

    def free(self, step: float) -> float:
        """Return how many degrees of freedom that rests on."""
        return self._free[step] + FITTED


def _groups(some: Sequence[_Gain]) -> list[list[_Gain]]:
    """Return the gains of a place about whose mean they vary by chance: of each take, or of all where each has one."""
    of_take: defaultdict[int, list[_Gain]] = defaultdict(list)
    for gain in some:
        of_take[gain.take].append(gain)
    more = [group for group in of_take.values() if len(group) > 1]
    return more or [list(some)]


def _line(steps: FloatArray, variance: FloatArray, free: FloatArray) -> tuple[float, float]:
    """Return what of the variance is there whatever the step, and what grows with its square; neither below 0."""
    if not steps.size:
        return 0.0, 0.0
    design = np.column_stack([np.ones(steps.size), steps**2])
    weight = np.sqrt(free / np.maximum(variance, LEAST_SD_MS**2) ** 2)
    (hand, clock), _ = scipy.optimize.nnls(design * weight[:, None], variance * weight)
    return float(hand), float(clock)


def _gains(number: int, take: PassageTake) -> Iterator[_Gain]:
    """Yield what each note of a take gained on the one before it, less its round's own tempo."""
    asked = sorted(take.notes, key=lambda note: note.expected_s)
    if len(asked) < 3:
        return
    at_s = np.array([note.expected_s for note in asked])
    error_ms = np.array([getattr(note, "error_ms", np.nan) for note in asked])
    places = [take.place(note) for note in asked][1:]
    rounds = np.array([turn for turn, _ in places])
    lasts_s = np.diff(at_s)
    gains = _without_tempo(np.diff(error_ms), lasts_s, rounds)
    shortest = float(lasts_s.min())
    for (_, place), gain, step in zip(places, gains.tolist(), (lasts_s / shortest).tolist(), strict=True):
        if np.isfinite(gain):
            yield _Gain(number, place, gain, round(step, SAME_STEP))


def _without_tempo(gain_ms: FloatArray, lasts_s: FloatArray, rounds: IntArray) -> FloatArray:
    """Return gains less what each round gains as a whole, in proportion to time."""
    found = np.full(gain_ms.shape, np.nan)
    for number in np.unique(rounds):
        here = (rounds == number) & np.isfinite(gain_ms)
        if np.sum(here) > 1:
            found[here] = gain_ms[here] - lasts_s[here] * (np.sum(gain_ms[here]) / np.sum(lasts_s[here]))
    return found


def _order(place: Place) -> tuple[int, float]:
    return place[0], float(parse(place[1]))
