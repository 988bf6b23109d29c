"""Clicks, notes and silences of a drill, exact until seconds.

All places are whole numbers of *ticks*, the finest common part of a beat that the drill uses, so
the arithmetic is exact and the cost is linear in clicks and notes. Tick 0 is the drill's time
zero: its first count-in click, or its first body cycle where there is no count-in.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from giusto import position
from giusto.drill import Drill, FixedSilence, Segment, ticks_per_beat
from giusto.errors import NotBuiltError
from giusto.tempo import beat_period_s

IntArray = NDArray[np.int64]

COUNT, CLICK, ACCENT = "count", "click", "accent"


@dataclass(frozen=True, slots=True)
class Grid:
    """Places in drill time, ascending: tick, cycle (body from 1) and tick within the cycle."""

    tick: IntArray
    cycle: IntArray
    offset: IntArray

    def __len__(self) -> int:
        return self.tick.size


@dataclass(frozen=True, slots=True)
class Silence:
    """From one sounded main click to the next, where they stand more than one beat apart."""

    start_tick: int
    end_tick: int


@dataclass(frozen=True, slots=True)
class Schedule:
    """What a drill asks of the click and of the player.

    Attributes
    ----------
    drill : Drill
    ticks_per_beat : int
    clicks : Grid
        Every click that sounds.
    kinds : array of str, shape (len(clicks),)
        ``count``, ``click`` or ``accent``.
    notes : Grid
        Every note that the part asks for, closing cycles included.
    silences : tuple of Silence
    sounding : array of bool, shape (drill.cycles,)
        Which body cycles have their clicks.
    """

    drill: Drill
    ticks_per_beat: int
    clicks: Grid
    kinds: NDArray[np.str_]
    notes: Grid
    silences: tuple[Silence, ...]
    sounding: NDArray[np.bool_]

    @property
    def beat_s(self) -> float:
        """How long a beat lasts, in seconds."""
        return float(beat_period_s(self.drill.tempo.bpm))

    @property
    def cycle_ticks(self) -> int:
        """Ticks in one cycle."""
        return self.drill.cycle.beats * self.ticks_per_beat

    @property
    def body_tick(self) -> int:
        """Where the first body cycle starts."""
        return self.drill.count_in * self.cycle_ticks

    @property
    def end_tick(self) -> int:
        """Where the last cycle, closing ones included, ends."""
        return self.body_tick + (self.drill.cycles + self.drill.close) * self.cycle_ticks

    def seconds(self, tick: IntArray | int) -> NDArray[np.float64]:
        """Return drill time for ticks, rounded once.

        Parameters
        ----------
        tick : array of int

        Returns
        -------
        array of float
            Seconds from the drill's time zero.
        """
        tick_s = beat_period_s(self.drill.tempo.bpm) / self.ticks_per_beat
        return np.asarray(tick) * float(tick_s.numerator) / float(tick_s.denominator)

    def position(self, offset: int) -> str:
        """Return the written place of a tick within the cycle."""
        return position.write(Fraction(int(offset), self.ticks_per_beat))


def schedule(drill: Drill) -> Schedule:
    """Lay out a drill in time.

    Parameters
    ----------
    drill : Drill
        As ``giusto.drill.parse`` returns it.

    Returns
    -------
    Schedule

    Raises
    ------
    NotBuiltError
        Where the drill uses a part of ``drill/1`` that can't be played yet.
    """
    refuse_unbuilt(drill)
    parts = ticks_per_beat(drill)
    sounding = sounding_cycles(drill)
    clicks, kinds = _clicks(drill, parts, sounding)
    return Schedule(
        drill=drill,
        ticks_per_beat=parts,
        clicks=clicks,
        kinds=kinds,
        notes=_notes(drill, parts),
        silences=_silences(clicks.tick, parts),
        sounding=sounding,
    )


def refuse_unbuilt(drill: Drill) -> None:
    """Raise ``NotBuiltError`` for the first thing in the drill that can't be played yet."""
    silence, play = drill.clicks.silence, drill.part.play
    unbuilt = {
        f"clicks.silence of kind {getattr(silence, 'kind', '')}": silence is not None
        and not isinstance(silence, FixedSilence),
        "clicks.shift": drill.clicks.shift is not None,
        "clicks.subdivide above 1": drill.clicks.subdivide > 1,
        "part.play free": play == "free",
        "part.play in segments": isinstance(play, tuple) and isinstance(play[0], Segment),
    }
    for what, asked in unbuilt.items():
        if asked:
            raise NotBuiltError(what)


def sounding_cycles(drill: Drill) -> NDArray[np.bool_]:
    """Return which body cycles have their clicks, shape (drill.cycles,)."""
    index = np.arange(drill.cycles)
    sounding: NDArray[np.bool_] = index % drill.clicks.every == 0
    if isinstance(silence := drill.clicks.silence, FixedSilence):
        sounding &= index % (silence.heard + silence.silent) < silence.heard
    return sounding


def _clicks(drill: Drill, ticks_per_beat: int, sounding: NDArray[np.bool_]) -> tuple[Grid, NDArray[np.str_]]:
    beats = np.arange(drill.cycle.beats) * ticks_per_beat
    on = _offsets(drill.clicks.on, ticks_per_beat)
    body = 1 + np.flatnonzero(sounding)
    count = _grid(drill, ticks_per_beat, np.arange(1 - drill.count_in, 1), beats)
    main = _grid(drill, ticks_per_beat, body, on)
    close = _grid(drill, ticks_per_beat, drill.cycles + 1 + np.arange(drill.close), beats)
    accented = np.isin(main.offset, _accents(drill) * ticks_per_beat)
    kinds = np.concatenate(
        [
            np.full(len(count), COUNT),
            np.where(accented, ACCENT, CLICK),
            np.full(len(close), CLICK),
        ]
    )
    grids = (count, main, close)
    joined = Grid(*(np.concatenate([getattr(g, name) for g in grids]) for name in Grid.__slots__))
    return joined, kinds


def _accents(drill: Drill) -> IntArray:
    groups = drill.cycle.grouping
    starts = np.cumsum([0, *groups[:-1]])
    return {"none": starts[:0], "first": starts[:1], "groups": starts}[drill.clicks.accent]


def _notes(drill: Drill, ticks_per_beat: int) -> Grid:
    if drill.part.play == "grid":
        offsets = np.arange(drill.cycle.beats * drill.part.grid) * (ticks_per_beat // drill.part.grid)
    else:
        offsets = _offsets(drill.part.play, ticks_per_beat)  # type: ignore[arg-type]
    return _grid(drill, ticks_per_beat, 1 + np.arange(drill.cycles + drill.close), offsets)


def _offsets(places: tuple[str, ...], ticks_per_beat: int) -> IntArray:
    return np.array(sorted(int(position.parse(text) * ticks_per_beat) for text in places))


def _grid(drill: Drill, ticks_per_beat: int, cycles: IntArray, offsets: IntArray) -> Grid:
    cycle_ticks = drill.cycle.beats * ticks_per_beat
    starts = (cycles - 1 + drill.count_in) * cycle_ticks
    return Grid(
        tick=np.add.outer(starts, offsets).ravel(),
        cycle=np.repeat(cycles, offsets.size),
        offset=np.tile(offsets, cycles.size),
    )


def _silences(click_tick: IntArray, ticks_per_beat: int) -> tuple[Silence, ...]:
    gaps = np.flatnonzero(np.diff(click_tick) > ticks_per_beat)
    return tuple(Silence(int(click_tick[i]), int(click_tick[i + 1])) for i in gaps)
