"""All that is said of one take, as ``reading/1``, and the thread behind it.

Matching gives each asked note its error; the timekeeper takes clock and hand apart; this module
measures both against the player's own place and writes the figures down.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import ArrayLike
from pydantic import TypeAdapter
from scipy.special import stdtrit

from giusto.arrays import FloatArray, IntArray
from giusto.chain import chain
from giusto.match import Matching, match
from giusto.onsets import checked_onsets
from giusto.schedule import Grid, Schedule
from giusto.silence import Range, SilenceReading, Span, interval, read_silence, sample_sd, unread
from giusto.sizes import MIN_NOTES
from giusto.timekeeper import Track, smooth
from giusto.timeline import Timeline, timeline

LATER = ("tendency", "variability", "correction", "rhythm", "slip_beats")


@dataclass(frozen=True, slots=True)
class Counts:
    """How many notes were asked, played, paired, missed and added."""

    expected: int
    played: int
    matched: int
    missed: int
    extra: int


@dataclass(frozen=True, slots=True)
class Match:
    """A caught note; its error is played minus expected, so positive is late."""

    cycle: int
    position: str
    expected_s: float
    played_s: float
    error_ms: float


@dataclass(frozen=True, slots=True)
class Missed:
    """An asked note that was not caught."""

    cycle: int
    position: str
    expected_s: float


@dataclass(frozen=True, slots=True)
class Extra:
    """A played note that fits no asked one."""

    played_s: float


@dataclass(frozen=True, slots=True)
class Heard:
    """The player's place while the click sounds."""

    n: int
    mean_error_ms: float | None
    ci95_ms: Range | None
    sd_ms: float | None


@dataclass(frozen=True, slots=True)
class Reading:
    """One take, as ``reading/1``; ``docs/formats.md`` defines each field."""

    giusto: Literal["reading/1"]
    onsets: Counts
    matches: list[Match]
    missed: list[Missed]
    extra: list[Extra]
    heard: Heard
    silences: list[SilenceReading]
    tendency: None
    variability: None
    correction: None
    rhythm: None
    notes: list[str]

    def plain(self) -> dict[str, Any]:
        """Return the reading as what ``json.dumps`` takes."""
        return asdict(self)


@dataclass(frozen=True, slots=True)
class Thread:
    """The clock's way through the take, against the player's place, for drawing.

    Attributes
    ----------
    tick : array of int, shape (n,)
        Drill time of each moment, in the schedule's ticks.
    clock_ms, half_ms : array of float, shape (n,)
        Clock error and half its 95 % range; late is positive.
    note_ms : array of float, shape (n,)
        The caught note's own error, its slot's lean taken off; NaN where there is none.
    """

    tick: IntArray
    clock_ms: FloatArray
    half_ms: FloatArray
    note_ms: FloatArray


@dataclass(frozen=True, slots=True)
class Analysis:
    """A reading with its thread; no thread where too few notes were caught."""

    reading: Reading
    thread: Thread | None


def analyse(schedule: Schedule, onsets_s: ArrayLike) -> Analysis:
    """Read a take.

    Parameters
    ----------
    schedule : Schedule
        Of the drill as it was played.
    onsets_s : array_like, shape (played,)
        Seconds from the drill's time zero, ascending.

    Returns
    -------
    Analysis

    Raises
    ------
    GiustoError
        Where ``onsets_s`` breaks a rule.
    """
    played_s = checked_onsets(onsets_s)
    matching = match(schedule, played_s)
    asked_s = schedule.seconds(schedule.notes.tick)
    error_s = np.full(asked_s.size, np.nan)
    error_s[matching.asked] = played_s[matching.played] - asked_s[matching.asked]
    line = timeline(schedule)
    spans = _spans(schedule, matching)
    if matching.asked.size < MIN_NOTES:
        heard = Heard(0, None, None, None)
        silences = [unread(span) for span in spans]
        thread, notes = None, [_too_few(matching.asked.size)]
    else:
        heard, silences, thread, notes = _measured(schedule, line, error_s, spans)
    reading = Reading(
        giusto="reading/1",
        onsets=Counts(
            expected=asked_s.size,
            played=played_s.size,
            matched=matching.asked.size,
            missed=matching.missed.size,
            extra=matching.extra.size,
        ),
        matches=_matches(schedule, matching, asked_s, played_s),
        missed=[Missed(*row) for row in _places(schedule, matching.missed, asked_s)],
        extra=[Extra(round(float(played_s[j]), 6)) for j in matching.extra],
        heard=heard,
        silences=silences,
        **dict.fromkeys(("tendency", "variability", "correction", "rhythm")),
        notes=[*notes, f"not measured by this version: {', '.join(LATER)}"],
    )
    return Analysis(reading, thread)


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of ``reading/1``."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **TypeAdapter(Reading).json_schema()}


def _measured(
    schedule: Schedule, line: Timeline, error_s: FloatArray, spans: list[Span]
) -> tuple[Heard, list[SilenceReading], Thread, list[str]]:
    slot = _slot(schedule.notes, schedule.ticks_per_beat)
    take = chain(line, error_s, slot=slot, beat_s=schedule.beat_s)
    track = smooth(take, line.start, line.end)
    own_ms = take.error_ms - track.slot_ms[take.slot]
    at_home = own_ms - _recovery(track, line)
    heard = _heard(at_home[line.heard & take.caught], track)
    place_ms = track.place_ms if heard.mean_error_ms is None else heard.mean_error_ms
    clock_ms = track.clock_ms + track.place_ms - place_ms
    silences = [
        read_silence(
            span,
            drift_ms=float(track.drift_ms[i]),
            drift_var=float(track.drift_var[i]),
            return_ms=None if heard.mean_error_ms is None else float(clock_ms[line.end[i]]),
            return_var=float(track.clock_var[line.end[i]]),
            bpm=schedule.drill.tempo.bpm,
        )
        for i, span in enumerate(spans)
    ]
    tick = np.full(len(line), 0)
    tick[line.of_note] = schedule.notes.tick
    tick[line.start] = [s.start_tick for s in schedule.silences]
    tick[line.end] = [s.end_tick for s in schedule.silences]
    thread = Thread(tick, clock_ms, 1.96 * np.sqrt(np.maximum(track.clock_var, 0)), own_ms - place_ms)
    return heard, silences, thread, _reasons(heard, spans)


def _recovery(track: Track, line: Timeline) -> FloatArray:
    """Return what is left of the error a player came back with, as the clicks take it back.

    It belongs to the silence before; with it the player's place would lean to the last return.
    """
    n = len(line)
    first = np.zeros(n, dtype=np.int64)  # the moment after the last return into the click
    back = line.end[np.append(line.silence, -1)[line.end] == -1]
    back = back[back + 1 < n] + 1
    if not back.size:
        return np.zeros(n)
    first[back] = back
    first = np.maximum.accumulate(first)
    left = np.concatenate([[0.0], np.cumsum(line.clicks * np.log1p(-track.sizes.alpha))])
    return np.where(first > 0, track.clock_ms[first] * np.exp(left - left[first]), 0.0)


def _heard(errors_ms: FloatArray, track: Track) -> Heard:
    if not errors_ms.size:
        return Heard(0, None, None, None)
    mean = float(errors_ms.mean())
    quantile = float(stdtrit(max(errors_ms.size - 1, 1), 0.975))  # few notes say little of their own spread
    return Heard(
        errors_ms.size, round(mean, 3), interval(mean, track.place_var, quantile=quantile), sample_sd(errors_ms)
    )


def _slot(notes: Grid, ticks_per_beat: int) -> IntArray:
    return notes.offset % ticks_per_beat


def _spans(schedule: Schedule, matching: Matching) -> list[Span]:
    tick = schedule.notes.tick
    caught = np.zeros(tick.size + 1, dtype=np.int64)
    caught[matching.asked + 1] = 1
    caught = np.cumsum(caught)
    spans = []
    for silence in schedule.silences:
        first = int(np.searchsorted(tick, silence.start_tick))
        last = int(np.searchsorted(tick, silence.end_tick, side="right"))
        length = silence.end_tick - silence.start_tick
        spans.append(
            Span(
                start_s=round(float(schedule.seconds(silence.start_tick)), 6),
                end_s=round(float(schedule.seconds(silence.end_tick)), 6),
                beats=round(length / schedule.ticks_per_beat, 6),
                asked=last - first,
                caught=int(caught[last] - caught[first]),
            )
        )
    return spans


def _matches(schedule: Schedule, matching: Matching, asked_s: FloatArray, played_s: FloatArray) -> list[Match]:
    played = played_s[matching.played].tolist()
    rows = _places(schedule, matching.asked, asked_s)
    return [
        Match(cycle, place, expected, round(p, 6), round((p - e) * 1000, 3))
        for (cycle, place, expected), p, e in zip(rows, played, asked_s[matching.asked].tolist(), strict=True)
    ]


def _places(schedule: Schedule, notes: IntArray, asked_s: FloatArray) -> list[tuple[int, str, float]]:
    offsets = schedule.notes.offset[notes]
    names = {int(offset): schedule.position(offset) for offset in np.unique(offsets)}
    return [
        (cycle, names[offset], round(expected, 6))
        for cycle, offset, expected in zip(
            schedule.notes.cycle[notes].tolist(), offsets.tolist(), asked_s[notes].tolist(), strict=True
        )
    ]


def _too_few(caught: int) -> str:
    return f"{caught} notes were caught; a reading needs at least {MIN_NOTES}"


def _reasons(heard: Heard, spans: list[Span]) -> list[str]:
    reasons = []
    if not heard.n:
        reasons.append(
            "no note was caught while the click sounded, so the player's place and the returns are not known"
        )
    for number, span in enumerate(spans, start=1):
        if not span.readable:
            share = f"{span.caught} of {span.asked} notes caught"
            reasons.append(f"silence {number} can't be read: {share}, and half are needed")
    return reasons
