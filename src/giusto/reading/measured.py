"""A take after matching and smoothing, and the figures of it as a whole, each given or missing with a reason."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.figures.accents import Accents, accents
from giusto.figures.beat_leans import BeatLean, beat_leans
from giusto.figures.correction import Correction, correction
from giusto.figures.drift_shape import Bend, DriftShape, bend, came, drift_shape
from giusto.figures.fatigue import Fatigue, fatigue
from giusto.figures.hands import Hand, Struck, hands
from giusto.figures.note_and_click import Together, together
from giusto.figures.rhythm import Rhythm, rhythm
from giusto.figures.silence import Came
from giusto.figures.tendency import Tendency, lean_percent, lean_percent_var, tendency
from giusto.figures.variability import Variability, variability
from giusto.missing import Missing
from giusto.schedule.layout import Schedule, accent_places
from giusto.schedule.timeline import Timeline
from giusto.timekeeper.prior import Prior
from giusto.timekeeper.take import Chain
from giusto.timekeeper.track import Track

Figure = TypeVar("Figure")


@dataclass(frozen=True, slots=True)
class Whole:
    """What a take says beyond its single silences; None where it can't be given, with a reason in ``missing``."""

    tendency: Tendency | None = None
    variability: Variability | None = None
    correction: Correction | None = None
    rhythm: Rhythm | None = None
    drift_shape: DriftShape | None = None
    together: Together | None = None
    fatigue: Fatigue | None = None
    hands: list[Hand] | None = None
    accents: Accents | None = None
    beat_leans: list[BeatLean] | None = None
    missing: tuple[Missing, ...] = ()

    def without(self, missing: Missing) -> Whole:
        """Return the same, with one thing more that is missing."""
        return replace(self, missing=(missing, *self.missing))


@dataclass(frozen=True, slots=True)
class Measured:
    """A take after matching and smoothing.

    Attributes
    ----------
    schedule : Schedule
    line : Timeline
    chain : Chain
    track : Track
    clock_ms : array of float, shape (moments,)
        The clock against the player's place.
    own_ms : array of float, shape (moments,)
        Each caught note's error, its slot's lean and the player's place taken off; NaN where none.
    home_ms : array of float, shape (moments,)
        The same less what is left of the error a player came back with.
    readable : array of bool, shape (silences,)
    made_by : array of str, shape (moments,)
        What made each caught note; ``""`` where none was, or that is not known.
    strength : array of float, shape (moments,)
        Of each caught note, 0 to 1; NaN where none was, or that is not known.
    """

    schedule: Schedule
    line: Timeline
    chain: Chain
    track: Track
    clock_ms: FloatArray
    own_ms: FloatArray
    home_ms: FloatArray
    readable: BoolArray
    made_by: NDArray[np.str_]
    strength: FloatArray

    @property
    def in_silence(self) -> BoolArray:
        """Moments that belong to a silence, both its ends included."""
        inside = np.zeros(len(self.line), dtype=bool)
        for first, last in zip(self.line.start, self.line.end, strict=True):
            inside[first : last + 1] = True
        return inside

    def bends(self) -> list[Bend | None]:
        """Return the bend of each silence; None where it can't be read or has too few notes.

        The note on the click that it starts with is left out: the step after it takes an error back.
        """
        found: list[Bend | None] = []
        for first, last, ok in zip(self.line.start, self.line.end, self.readable, strict=True):
            error_ms = self.own_ms[first + 1 : last + 1]
            caught = np.isfinite(error_ms)
            time_ms = self.line.time_s[first + 1 : last + 1][caught] * 1000
            sizes = self.track.sizes
            start = (1000 * float(self.line.time_s[first]), float(self.clock_ms[first]))
            found.append(
                bend(error_ms[caught], time_ms, clock=sizes.clock, hand_ms=sizes.hand_ms, start=start)
                if ok and time_ms.size
                else None
            )
        return found


def how_drifts_came(take: Measured, bends: list[Bend | None]) -> list[Came | None]:
    """Return how the drift of each silence came, None where its range doesn't say."""
    return [
        None if b is None else came(b.bend_ms, b.sd_ms, drift_ms)
        for b, drift_ms in zip(bends, take.track.drift_ms.tolist(), strict=True)
    ]


def whole_of(take: Measured, bends: list[Bend | None], prior: Prior) -> Whole:
    """Return the figures of a take as a whole.

    Parameters
    ----------
    take : Measured
    bends : list of Bend or None
        Of each silence.
    prior : Prior
    """
    track, readable = take.track, take.readable
    missing: list[Missing] = []

    def given(found: Figure | Missing) -> Figure | None:
        if isinstance(found, Missing):
            missing.append(found)
            return None
        return found

    read = [k for k, b in enumerate(bends) if b is not None]
    drifts_ms = [float(take.track.drift_ms[k]) for k in read]
    return Whole(
        tendency=given(
            tendency(track.lean[readable], track.lean_var[readable], takes_differ_percent=prior.takes_differ_percent)
        ),
        variability=given(variability(take.chain, take.in_silence, prior)),
        correction=given(_correction(take, prior)),
        rhythm=given(_rhythm(take)),
        drift_shape=given(drift_shape([b for b in bends if b is not None], drifts_ms)),
        together=given(_together(take)),
        fatigue=given(_fatigue(take)),
        hands=_hands(take),
        accents=_accents(take),
        beat_leans=given(_beat_leans(take)),
        missing=tuple(missing),
    )


def _heard_steps(take: Measured) -> int:
    caught, line = take.chain.caught, take.line
    return int(np.count_nonzero(caught[:-1] & caught[1:] & (line.clicks > 0) & (line.silence < 0)))


def _correction(take: Measured, prior: Prior) -> Correction | Missing:
    if take.track.likely is None:
        return Missing("correction", "sizes-given")
    if not take.track.likely.found:
        return Missing("correction", "not-found")
    return correction(take.chain, prior, take.track.likely.free, _heard_steps(take))


def _offsets(take: Measured) -> tuple[IntArray, IntArray]:
    """Return cycle and offset of each caught note."""
    notes = take.line.note[take.chain.caught]
    return take.schedule.playable.cycle[notes], take.schedule.playable.offset[notes]


def _rhythm(take: Measured) -> Rhythm | Missing:
    slots = _offsets(take)[1] % take.schedule.ticks_per_beat
    return rhythm(
        slots,
        take.track.slot_ms,
        take.track.slot_var,
        ticks_per_beat=take.schedule.ticks_per_beat,
        beat_ms=take.chain.beat_ms,
        swung_half=take.schedule.drill.clicks.swung_half,
    )


def _together(take: Measured) -> Together | Missing:
    """Compare notes with the clicks that sound with them; a return's click ends a silence and is left out."""
    line, schedule = take.line, take.schedule
    tick = schedule.playable.tick
    with_click = np.isin(tick, schedule.clicks.tick) & line.with_click[line.of_note]
    moments = line.of_note[with_click]
    return together(take.own_ms[moments], line.time_s[moments])


def _fatigue(take: Measured) -> Fatigue | Missing:
    line, track, ok = take.line, take.track, take.readable
    caught = take.chain.caught
    return fatigue(
        take.own_ms[caught],
        line.time_s[caught],
        middle_s=(line.time_s[line.start] + line.time_s[line.end])[ok] / 2,
        tempo_percent=lean_percent(track.lean[ok]),
        tempo_var=lean_percent_var(track.lean[ok], track.lean_var[ok]),
    )


def _hands(take: Measured) -> list[Hand] | None:
    """Look at the notes of each hand; what made them is known of some sources only."""
    caught = np.flatnonzero(take.chain.caught)
    if not np.any(take.made_by[caught] != take.made_by[caught[:1]]):
        return None
    missed, opened = take.line.note >= 0, np.concatenate([[0.0], take.chain.opened_ms])
    missed[caught] = False
    breaks = np.cumsum(missed | (opened > 0))
    return hands(
        Struck(
            take.made_by[caught],
            take.chain.error_ms[caught],
            take.own_ms[caught],
            1000 * take.line.time_s[caught],
            np.diff(breaks[caught], prepend=-1) == 0,
            take.track.sizes.clock,
        )
    )


def _accents(take: Measured) -> Accents | None:
    """Look at the notes where the click is accented, heard or not."""
    schedule = take.schedule
    places = np.array(accent_places(schedule.drill), dtype=np.int64) * schedule.ticks_per_beat
    cycle, offset = _offsets(take)
    accented = np.isin(offset, places)
    return accents(take.strength[take.chain.caught], cycle, accented) if accented.any() else None


def _beat_leans(take: Measured) -> list[BeatLean] | Missing:
    """Look at cycles of one kind: those the click leaves or comes back in lean where it does so."""
    cycle, offset = _offsets(take)
    schedule = take.schedule
    parts = schedule.ticks_per_beat
    ends = np.array([s.end_tick for s in schedule.silences], dtype=np.int64)
    starts = np.array([s.start_tick for s in schedule.silences], dtype=np.int64)
    edge = (np.concatenate([ends, starts]) - schedule.body_tick) // schedule.cycle_ticks + 1
    on_beat = (offset % parts == 0) & ~np.isin(cycle, edge)
    error_ms = take.home_ms[take.chain.caught][on_beat]
    return beat_leans(offset[on_beat] // parts, cycle[on_beat], error_ms, beats=take.schedule.drill.cycle.beats)
