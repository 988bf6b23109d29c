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
from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.drill import Drill, Segment, ticks_per_beat
from giusto.dropout import sounding_beats
from giusto.tempo import beat_period_s

COUNT, CLICK, ACCENT, SUB = "count", "click", "accent", "sub"


@dataclass(frozen=True, slots=True)
class Grid:
    """Places in drill time, ascending: tick, cycle (body from 1) and tick within the cycle."""

    tick: IntArray
    cycle: IntArray
    offset: IntArray

    def __len__(self) -> int:
        return self.tick.size

    def where(self, which: BoolArray | IntArray) -> Grid:
        """Return the places chosen by a mask or by indices."""
        return Grid(self.tick[which], self.cycle[which], self.offset[which])


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
        ``count``, ``click``, ``accent`` or ``sub``.
    withheld : Grid
        Every main click that the drill has and that a silence withholds.
    notes : Grid
        Every note that the part asks for, closing cycles included; none where it is free.
    silences : tuple of Silence
    sounding : array of bool, shape (drill.cycles, drill.cycle.beats)
        Which beats of the body have their clicks.
    """

    drill: Drill
    ticks_per_beat: int
    clicks: Grid
    kinds: NDArray[np.str_]
    withheld: Grid
    notes: Grid
    silences: tuple[Silence, ...]
    sounding: BoolArray

    @property
    def is_free(self) -> bool:
        """Whether the player improvises: any slot may be played, none is asked for."""
        return self.drill.part.play == "free"

    @property
    def playable(self) -> Grid:
        """Places where a note may fall: the notes asked for, or every slot where the part is free."""
        return _slots(_Layout(self.drill, self.ticks_per_beat)) if self.is_free else self.notes

    def asked_in(self, silence: Silence) -> int:
        """Return how many notes a silence asks for, both ends included; a note a beat where the part is free."""
        if self.is_free:
            return max((silence.end_tick - silence.start_tick) // self.ticks_per_beat, 1)
        first = int(np.searchsorted(self.notes.tick, silence.start_tick))
        return int(np.searchsorted(self.notes.tick, silence.end_tick, side="right")) - first

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

    def seconds(self, tick: IntArray | int) -> FloatArray:
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

    """
    layout = _Layout(drill, ticks_per_beat(drill))
    sounding = sounding_beats(drill)
    clicks, kinds, withheld = _clicks(layout, sounding)
    return Schedule(
        drill=drill,
        ticks_per_beat=layout.parts,
        clicks=clicks,
        kinds=kinds,
        withheld=withheld,
        notes=_notes(layout),
        silences=_silences(clicks.tick, layout.parts),
        sounding=sounding,
    )


@dataclass(frozen=True, slots=True)
class _Layout:
    """A drill with its ticks a beat."""

    drill: Drill
    parts: int

    @property
    def body(self) -> IntArray:
        """The numbers of the body cycles."""
        return 1 + np.arange(self.drill.cycles)

    @property
    def close(self) -> IntArray:
        """The numbers of the closing cycles."""
        return self.drill.cycles + 1 + np.arange(self.drill.close)

    @property
    def beats(self) -> IntArray:
        """The beats of a cycle, as offsets."""
        return np.arange(self.drill.cycle.beats) * self.parts

    def offsets(self, places: tuple[str, ...]) -> IntArray:
        """Return written places as ascending offsets."""
        return np.array(sorted(int(position.parse(text) * self.parts) for text in places))

    def grid(self, cycles: IntArray, offsets: IntArray) -> Grid:
        """Return the same offsets in each cycle."""
        return self.placed(np.repeat(cycles, offsets.size), np.tile(offsets, cycles.size))

    def placed(self, cycle: IntArray, offset: IntArray) -> Grid:
        """Return places given one by one."""
        start = (cycle - 1 + self.drill.count_in) * (self.drill.cycle.beats * self.parts)
        return Grid(start + offset, cycle, offset)


def _clicks(layout: _Layout, sounding: BoolArray) -> tuple[Grid, NDArray[np.str_], Grid]:
    """Return the clicks that sound, their kinds, and the main clicks that are withheld."""
    drill = layout.drill
    count = layout.grid(np.arange(1 - drill.count_in, 1), layout.beats)
    close = layout.grid(layout.close, layout.beats)
    main = _shifted(layout, layout.grid(layout.body, layout.offsets(drill.clicks.on)))
    heard = _sounds(layout, main, sounding)
    played, withheld = main.where(heard), main.where(~heard)
    quiet = _subdivisions(layout, main, sounding)
    accented = np.isin(played.offset, _accents(drill) * layout.parts)
    kinds = (
        np.full(len(count), COUNT),
        np.where(accented, ACCENT, CLICK),
        np.full(len(quiet), SUB),
        np.full(len(close), CLICK),
    )
    grids = (count, played, quiet, close)
    joined = Grid(*(np.concatenate([getattr(g, name) for g in grids]) for name in Grid.__slots__))
    order = np.argsort(joined.tick, kind="stable")
    return joined.where(order), np.concatenate(kinds)[order], withheld


def _shifted(layout: _Layout, main: Grid) -> Grid:
    """Move the clicks by a part of a beat after every so many cycles, wrapping in the cycle."""
    shift = layout.drill.clicks.shift
    if shift is None:
        return main
    by = int(Fraction(shift.by) * layout.parts)
    turns = (main.cycle - 1) // shift.every_cycles
    offset = (main.offset + turns * by) % (layout.drill.cycle.beats * layout.parts)
    moved = layout.placed(main.cycle, offset)
    return moved.where(np.argsort(moved.tick, kind="stable"))


def _subdivisions(layout: _Layout, main: Grid, sounding: BoolArray) -> Grid:
    """Return the quiet clicks within sounding beats, where no main click stands."""
    split = layout.drill.clicks.subdivide
    inner = np.arange(1, split) * (layout.parts // split)
    quiet = layout.grid(layout.body, np.add.outer(layout.beats, inner).ravel())
    return quiet.where(_sounds(layout, quiet, sounding) & ~np.isin(quiet.tick, main.tick))


def _sounds(layout: _Layout, places: Grid, sounding: BoolArray) -> BoolArray:
    heard: BoolArray = sounding[places.cycle - 1, places.offset // layout.parts]
    return heard


def _accents(drill: Drill) -> IntArray:
    groups = drill.cycle.grouping
    starts = np.cumsum([0, *groups[:-1]])
    return {"none": starts[:0], "first": starts[:1], "groups": starts}[drill.clicks.accent]


def _notes(layout: _Layout) -> Grid:
    part, cycles = layout.drill.part, np.concatenate([layout.body, layout.close])
    if part.play == "free":
        return layout.grid(cycles, np.empty(0, dtype=np.int64))
    if part.play == "grid":
        return _slots(layout)
    if isinstance(part.play[0], Segment):
        return _segments(layout, part.play, cycles)
    return layout.grid(cycles, layout.offsets(part.play))


def _slots(layout: _Layout) -> Grid:
    """Return every slot of body and close."""
    grid = layout.drill.part.grid
    slots = np.arange(layout.drill.cycle.beats * grid) * (layout.parts // grid)
    return layout.grid(np.concatenate([layout.body, layout.close]), slots)


def _segments(layout: _Layout, segments: tuple[Segment, ...], cycles: IntArray) -> Grid:
    """Play the segments in turn, again and again, through body and close."""
    of_cycle = _turns(segments, cycles)
    grids = [layout.grid(cycles[of_cycle == k], layout.offsets(s.at)) for k, s in enumerate(segments)]
    joined = Grid(*(np.concatenate([getattr(g, name) for g in grids]) for name in Grid.__slots__))
    return joined.where(np.argsort(joined.tick, kind="stable"))


def _turns(segments: tuple[Segment, ...], cycles: IntArray) -> IntArray:
    turn = np.repeat(np.arange(len(segments)), [segment.cycles for segment in segments])
    of_cycle: IntArray = turn[(cycles - 1) % turn.size]
    return of_cycle


def turns(drill: Drill) -> list[int]:
    """Return which segment of the part each cycle of body and close plays; 0 where it has none.

    Examples
    --------
    >>> from giusto.drill import validate
    >>> part = {"grid": 1, "play": [{"cycles": 2, "at": ["1"]}, {"cycles": 1, "at": ["2"]}]}
    >>> plain = {"giusto": "drill/1", "tempo": {"bpm": 60}, "cycle": {"beats": 2}, "clicks": {"on": ["1"]}}
    >>> turns(validate({**plain, "part": part, "cycles": 4, "close": 1}))
    [0, 0, 1, 0, 0]
    """
    total = drill.cycles + drill.close
    segments = tuple(piece for piece in drill.part.play if isinstance(piece, Segment))
    return _turns(segments, np.arange(1, total + 1)).tolist() if segments else [0] * total


def _silences(click_tick: IntArray, ticks_per_beat: int) -> tuple[Silence, ...]:
    gaps = np.flatnonzero(np.diff(click_tick) > ticks_per_beat)
    return tuple(Silence(int(click_tick[i]), int(click_tick[i + 1])) for i in gaps)
