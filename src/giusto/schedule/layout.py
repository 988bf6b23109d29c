"""Clicks, notes and silences of a drill, exact until seconds.

All places are whole numbers of *ticks*, the finest common part of a beat that the drill uses, so
the arithmetic is exact and the cost is linear in clicks and notes. Tick 0 is the drill's time
zero: its first count-in click, or its first body cycle where there is no count-in.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.drill import Drill, position
from giusto.drill.file import STRAIGHT, Segment, ticks_per_beat
from giusto.drill.tempo_steps import cycle_bpm
from giusto.schedule.silent_beats import sounding_beats
from giusto.schedule.tempo_map import TempoMap
from giusto.tempo import SECONDS_PER_MINUTE, beat_period_s, exact_bpm

COUNT, CLICK, ACCENT, SUB = "count", "click", "accent", "sub"


@dataclass(frozen=True, slots=True)
class Grid:
    """Places in drill time, ascending.

    Attributes
    ----------
    tick : array of int, shape (places,)
        When it sounds or is asked: swung, where the drill swings.
    cycle : array of int, shape (places,)
        The body's from 1.
    offset : array of int, shape (places,)
        Where it is written within the cycle, in ticks: a swung half still stands on the half.
    """

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
    """From one sounded main click to the next, more than a beat apart; out of the count-in, two beats at least."""

    start_tick: int
    end_tick: int


@dataclass(frozen=True, slots=True)
class Schedule:
    """What a drill asks of the click and of the player.

    Attributes
    ----------
    drill : Drill
    ticks_per_beat : int
    tempos : TempoMap
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
    tempos: TempoMap
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
    def unreturned(self) -> tuple[Silence, ...]:
        """The silence that the drill ends in, where clicks are withheld and none returns: it can't be read."""
        if not len(self.withheld) or not len(self.clicks):
            return ()
        last = int(self.clicks.tick[-1])
        is_open = int(self.withheld.tick[-1]) > last and self.end_tick - last > self.ticks_per_beat
        return (Silence(last, self.end_tick),) if is_open else ()

    @property
    def is_mostly_alone(self) -> bool:
        """Whether the click is but a start, or nothing: most of the body lies in one silence, or has no click."""
        half = self.drill.cycles * self.cycle_ticks / 2
        longest = max((one.end_tick - one.start_tick for one in (*self.silences, *self.unreturned)), default=0)
        return not self.drill.clicks.on or longest >= half

    @property
    def beat_s(self) -> float:
        """How long a beat of the first tempo lasts, in seconds."""
        return float(beat_period_s(self.drill.tempo.bpm))

    @property
    def mean_beat_s(self) -> float:
        """How long a beat lasts on average, from the first body cycle to the end."""
        if len(self.tempos.bpm) == 1:
            return self.beat_s
        beats = (self.end_tick - self.body_tick) / self.ticks_per_beat
        return self.between_s(self.body_tick, self.end_tick) / beats

    def between_s(self, first: int, last: int) -> float:
        """Return the seconds from one tick to another."""
        start_s, end_s = self.seconds(np.array([first, last])).tolist()
        return float(end_s - start_s)

    def bpm_in(self, silence: Silence) -> float:
        """Return the tempo asked in a silence."""
        return self.bpm_between(silence.start_tick, silence.end_tick)

    def bpm_between(self, first: int, last: int) -> float:
        """Return the tempo asked from one tick to another; where it changes, what the beats take on average."""
        tempos = self.tempos
        pieces = tempos.bpm[int(np.searchsorted(tempos.tick, first, side="right")) - 1 :]
        if len(pieces) == 1 or not np.any((tempos.tick > first) & (tempos.tick < last)):
            return float(pieces[0])
        return SECONDS_PER_MINUTE * (last - first) / self.ticks_per_beat / self.between_s(first, last)

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
        return self.tempos.seconds(tick)

    def sounding_offset(self, offset: IntArray) -> IntArray:
        """Return where written places of the cycle, in ticks, sound within it: a half where its swing puts it."""
        return _Layout(self.drill, self.ticks_per_beat).swung(offset)

    def position(self, offset: int) -> str:
        """Return the written place of a tick within the cycle."""
        return position.write(Fraction(int(offset), self.ticks_per_beat))


def schedule(drill: Drill) -> Schedule:
    """Lay out a drill in time.

    Parameters
    ----------
    drill : Drill
        As ``giusto.drill.file.parse`` returns it.

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
        tempos=_tempos(layout, clicks),
        clicks=clicks,
        kinds=kinds,
        withheld=withheld,
        notes=_notes(layout),
        silences=_silences(clicks.tick, layout.parts, drill.count_in * drill.cycle.beats * layout.parts),
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
        return np.array(sorted(int(position.parse(text) * self.parts) for text in places), dtype=np.int64)

    def grid(self, cycles: IntArray, offsets: IntArray) -> Grid:
        """Return the same offsets in each cycle."""
        return _ascending(self.placed(np.repeat(cycles, offsets.size), np.tile(offsets, cycles.size)))

    def placed(self, cycle: IntArray, offset: IntArray) -> Grid:
        """Return places given one by one."""
        start = (cycle - 1 + self.drill.count_in) * (self.drill.cycle.beats * self.parts)
        return Grid(start + self.swung(offset), cycle, offset)

    def swung(self, offset: IntArray) -> IntArray:
        """Return when written offsets sound: whatever stands on an odd half of a beat, where its swing puts it."""
        clicks = self.drill.clicks
        if clicks.swing == STRAIGHT:
            return offset
        later = int(clicks.swung_half * self.parts) - self.parts // 2
        moved: IntArray = offset + later * (offset % self.parts == self.parts // 2)
        return moved


def _ascending(places: Grid) -> Grid:
    """Return places in the order in which they sound: a swung half may come upon, or after, a place that stays.

    Of two at one moment one is left: a hand can't play both, and two clicks there are a louder one.
    """
    if np.all(np.diff(places.tick) > 0):
        return places
    return places.where(np.unique(places.tick, return_index=True)[1])


def _tempos(layout: _Layout, clicks: Grid) -> TempoMap:
    """Join cycles of one tempo; the count-in has the first."""
    drill = layout.drill
    total = drill.cycles + drill.close
    bpm = cycle_bpm(drill.tempo, cycles=total, sounding=np.unique(clicks.cycle[clicks.cycle > 0]).tolist())
    cycle_ticks = drill.cycle.beats * layout.parts
    changes = [(0, exact_bpm(drill.tempo.bpm))]
    for cycle in range(1, total):
        if bpm[cycle] != changes[-1][1]:
            changes.append(((drill.count_in + cycle) * cycle_ticks, bpm[cycle]))
    tick_s = [beat_period_s(tempo) / layout.parts for _, tempo in changes]
    lengths = [(b[0] - a[0]) * each for a, b, each in zip(changes, changes[1:], tick_s, strict=False)]
    return TempoMap(
        tick=np.array([tick for tick, _ in changes]),
        bpm=tuple(tempo for _, tempo in changes),
        start_s=np.array([float(start) for start in accumulate(lengths, initial=Fraction(0))]),
        tick_s=np.array([[float(each.numerator), float(each.denominator)] for each in tick_s]),
        ticks_per_beat=layout.parts,
    )


def _joined(grids: Iterable[Grid]) -> Grid:
    """Return the places of several grids, one after the other."""
    parts = list(grids)
    return Grid(
        np.concatenate([grid.tick for grid in parts]),
        np.concatenate([grid.cycle for grid in parts]),
        np.concatenate([grid.offset for grid in parts]),
    )


def _clicks(layout: _Layout, sounding: BoolArray) -> tuple[Grid, NDArray[np.str_], Grid]:
    """Return the clicks that sound, their kinds, and the main clicks that are withheld."""
    drill = layout.drill
    count = layout.grid(np.arange(1 - drill.count_in, 1), layout.beats)
    close = layout.grid(layout.close, layout.beats)
    main = _shifted(layout, layout.grid(layout.body, layout.offsets(drill.clicks.on)))
    heard = _sounds(layout, main, sounding)
    played, withheld = main.where(heard), main.where(~heard)
    quiet = _subdivisions(layout, main, sounding)
    accented = np.isin(played.offset, np.array(accent_places(drill), dtype=np.int64) * layout.parts)
    kinds = (
        np.full(len(count), COUNT),
        np.where(accented, ACCENT, CLICK),
        np.full(len(quiet), SUB),
        np.full(len(close), CLICK),
    )
    joined = _joined((count, played, quiet, close))
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
    return _ascending(layout.placed(main.cycle, offset))


def _subdivisions(layout: _Layout, main: Grid, sounding: BoolArray) -> Grid:
    """Return the quiet clicks within sounding beats, where no main click stands."""
    split = layout.drill.clicks.subdivide
    inner = np.arange(1, split) * (layout.parts // split)
    quiet = layout.grid(layout.body, np.add.outer(layout.beats, inner).ravel())
    return quiet.where(_sounds(layout, quiet, sounding) & ~np.isin(quiet.tick, main.tick))


def _sounds(layout: _Layout, places: Grid, sounding: BoolArray) -> BoolArray:
    heard: BoolArray = sounding[places.cycle - 1, places.offset // layout.parts]
    return heard


def accent_places(drill: Drill) -> list[int]:
    """Return the beats of the cycle, from 0, on which a click is accented."""
    starts = list(accumulate(drill.cycle.grouping[:-1], initial=0))
    return {"none": [], "first": starts[:1], "groups": starts}[drill.clicks.accent]


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
    return _ascending(_joined(layout.grid(cycles[of_cycle == k], layout.offsets(s.at)) for k, s in enumerate(segments)))


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


def _silences(click_tick: IntArray, ticks_per_beat: int, body_tick: int) -> tuple[Silence, ...]:
    beats = np.diff(click_tick) / ticks_per_beat
    opens = click_tick[:-1] < body_tick  # a beat and a bit from the count-in to the first offbeat is no silence
    gaps = np.flatnonzero((beats > 1) & ~(opens & (beats < 2)))
    return tuple(Silence(int(click_tick[i]), int(click_tick[i + 1])) for i in gaps)
