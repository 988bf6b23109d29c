"""All that is said of one take, as ``reading/1``, and the thread behind it.

Matching gives each asked note its error; the timekeeper takes clock and hand apart; this module
measures both against the player's own place and writes the figures down.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import ArrayLike
from pydantic import TypeAdapter, ValidationError
from scipy.special import stdtrit

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.chain import chain
from giusto.correction import Correction
from giusto.course import Course
from giusto.errors import GiustoError
from giusto.fatigue import Fatigue
from giusto.match import Matching, match
from giusto.onsets import checked_onsets
from giusto.places import Place
from giusto.rhythm import Length, SlotLean, Swing
from giusto.schedule import Schedule
from giusto.silence import Range, SilenceReading, Span, interval, read_silence, sample_sd, unread
from giusto.sizes import MIN_NOTES, WEAK, Prior, Seen
from giusto.tendency import Tendency
from giusto.timekeeper import Track, smooth
from giusto.timeline import REACTION_S, Timeline, returns, timeline
from giusto.together import Together
from giusto.variability import Variability
from giusto.whole import Measured, Whole, ways
from giusto.whole import whole as whole_of

MOST_ANSWERS = 64  # ours: notes before a return that may have been played after it
CLOSELY = 0.9  # ours: share of a silence's notes that must be caught to follow it beat by beat


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
    """The player's place while the click sounds, and the spread about it and from note to note."""

    n: int
    mean_error_ms: float | None = None
    ci95_ms: Range | None = None
    sd_ms: float | None = None
    interval_sd_ms: float | None = None


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
    tendency: Tendency | None
    variability: Variability | None
    correction: Correction | None
    rhythm: list[SlotLean] | None
    notes: list[str]
    lengths: list[Length] | None
    swing: Swing | None
    course: Course | None
    together: Together | None
    fatigue: Fatigue | None
    places: list[Place] | None

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
    """A reading, its thread, and the sizes behind it; neither of these where too few notes were caught."""

    reading: Reading
    thread: Thread | None
    sizes: Seen | None


@dataclass(frozen=True, slots=True)
class _Found:
    """What is said of a take besides its counts."""

    heard: Heard
    silences: list[SilenceReading]
    notes: list[str]
    whole: Whole
    thread: Thread | None = None
    sizes: Seen | None = None


def analyse(schedule: Schedule, onsets_s: ArrayLike, *, prior: Prior = WEAK) -> Analysis:
    """Read a take.

    Parameters
    ----------
    schedule : Schedule
        Of the drill as it was played.
    onsets_s : array_like, shape (played,)
        Seconds from the drill's time zero, ascending.
    prior : Prior
        What is known of the player's noise beforehand: weak, or from earlier takes.

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
    asked_s = schedule.seconds(schedule.playable.tick)
    error_s = np.full(asked_s.size, np.nan)
    error_s[matching.asked] = played_s[matching.played] - asked_s[matching.asked]
    line = timeline(schedule)
    error_s[_answers(line, asked_s, error_s, schedule.beat_s)] = np.nan
    spans = _spans(schedule, matching)
    if matching.asked.size < MIN_NOTES:
        silences = [unread(span) for span in spans]
        found = _Found(Heard(0), silences, [_too_few(matching.asked.size)], Whole())
    else:
        found = _measured(schedule, line, error_s, spans, prior)
    missed = matching.missed[:0] if schedule.is_free else matching.missed
    whole, rhythm = found.whole, found.whole.rhythm
    reading = Reading(
        giusto="reading/1",
        onsets=Counts(
            expected=0 if schedule.is_free else asked_s.size,
            played=played_s.size,
            matched=matching.asked.size,
            missed=missed.size,
            extra=matching.extra.size,
        ),
        matches=_matches(schedule, matching, asked_s, played_s),
        missed=[Missed(*row) for row in _named(schedule, missed, asked_s)],
        extra=[Extra(round(float(played_s[j]), 6)) for j in matching.extra],
        heard=found.heard,
        silences=found.silences,
        tendency=whole.tendency,
        variability=whole.variability,
        correction=whole.correction,
        rhythm=rhythm.slots if rhythm else None,
        notes=[*found.notes, *whole.missing],
        lengths=rhythm.lengths if rhythm else None,
        swing=rhythm.swing if rhythm else None,
        course=whole.course,
        together=whole.together,
        fatigue=whole.fatigue,
        places=whole.places,
    )
    return Analysis(reading, found.thread, found.sizes)


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of ``reading/1``."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **TypeAdapter(Reading).json_schema()}


def parse(plain: dict[str, Any]) -> Reading:
    """Return a reading from what ``plain`` made of it, through JSON or not.

    Raises
    ------
    GiustoError
        ``reading``, where it is no ``reading/1`` of this version.
    """
    try:
        return TypeAdapter(Reading).validate_python(plain)
    except ValidationError as error:
        fault = error.errors()[0]
        where = ".".join(str(part) for part in fault["loc"])
        raise GiustoError(f"not a reading of this version: {where}: {fault['msg']}", code="reading") from None


def _measured(schedule: Schedule, line: Timeline, error_s: FloatArray, spans: list[Span], prior: Prior) -> _Found:
    slot = schedule.playable.offset % schedule.ticks_per_beat
    take = chain(line, error_s, slot=slot, beat_s=schedule.beat_s)
    track = smooth(take, line.start, line.end, prior=prior)
    own_ms = take.error_ms - track.slot_ms[take.slot]
    at_home = own_ms - _recovery(track, line)
    is_heard = line.heard & take.caught
    steps_ms = np.diff(at_home)[is_heard[:-1] & is_heard[1:]]
    heard = _heard(at_home[is_heard], steps_ms, track)
    place_ms = track.place_ms if heard.mean_error_ms is None else heard.mean_error_ms
    clock_ms = track.clock_ms + track.place_ms - place_ms
    readable = np.array([span.readable for span in spans], dtype=bool)
    measured = Measured(schedule, line, take, track, own_ms - place_ms, at_home - place_ms, readable)
    bends = measured.bends()
    silences = [
        read_silence(
            span,
            drift_ms=float(track.drift_ms[i]),
            drift_var=float(track.drift_var[i]),
            return_ms=None if heard.mean_error_ms is None else float(clock_ms[line.end[i]]),
            return_var=float(track.clock_var[line.end[i]]),
            bpm=schedule.drill.tempo.bpm,
            lean=float(track.lean[i]),
            lean_var=float(track.lean_var[i]),
            course=way,
        )
        for i, (span, way) in enumerate(zip(spans, ways(measured, bends), strict=True))
    ]
    tick = np.full(len(line), 0)
    tick[line.of_note] = schedule.playable.tick
    tick[line.start] = [s.start_tick for s in schedule.silences]
    tick[line.end] = [s.end_tick for s in schedule.silences]
    thread = Thread(tick, clock_ms, 1.96 * np.sqrt(np.maximum(track.clock_var, 0)), own_ms - place_ms)
    notes = _reasons(heard, spans, silences)
    seen = track.likely.seen if track.likely else None
    return _Found(heard, silences, notes, whole_of(measured, bends, prior), thread, seen)


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


def _heard(errors_ms: FloatArray, steps_ms: FloatArray, track: Track) -> Heard:
    if not errors_ms.size:
        return Heard(0)
    mean = float(errors_ms.mean())
    quantile = float(stdtrit(max(errors_ms.size - 1, 1), 0.975))  # few notes say little of their own spread
    return Heard(
        n=errors_ms.size,
        mean_error_ms=round(mean, 3),
        ci95_ms=interval(mean, track.place_var, quantile=quantile),
        sd_ms=sample_sd(errors_ms),
        interval_sd_ms=sample_sd(steps_ms),
    )


def _answers(line: Timeline, asked_s: FloatArray, error_s: FloatArray, beat_s: float) -> BoolArray:
    """Return the notes counted to a silence that answer the click it ended with.

    More than half a beat late, a player has heard the click before the note, and a note that leaves
    its neighbour by as much was moved by it: neither tells of the silence.
    """
    answers = np.zeros(error_s.size, dtype=bool)
    for moment in returns(line).tolist():
        after = int(np.searchsorted(line.of_note, moment, side="right"))
        some = np.arange(max(after - MOST_ANSWERS, 0), after)
        some = some[np.isfinite(error_s[some])]
        late_s = asked_s[some] + error_s[some] - line.time_s[moment]
        off = np.any(np.abs(error_s[some]) > beat_s / 2)
        moved = np.abs(np.diff(error_s[some], prepend=error_s[some[:1]])) > beat_s / 2
        answers[some] = off & ((late_s > REACTION_S) | (moved & (late_s > 0)))
    return answers


def _spans(schedule: Schedule, matching: Matching) -> list[Span]:
    tick = schedule.playable.tick
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
                asked=schedule.asked_in(silence),
                caught=int(caught[last] - caught[first]),
            )
        )
    return spans


def _matches(schedule: Schedule, matching: Matching, asked_s: FloatArray, played_s: FloatArray) -> list[Match]:
    played = played_s[matching.played].tolist()
    rows = _named(schedule, matching.asked, asked_s)
    return [
        Match(cycle, place, expected, round(p, 6), round((p - e) * 1000, 3))
        for (cycle, place, expected), p, e in zip(rows, played, asked_s[matching.asked].tolist(), strict=True)
    ]


def _named(schedule: Schedule, notes: IntArray, asked_s: FloatArray) -> list[tuple[int, str, float]]:
    offsets = schedule.playable.offset[notes]
    names = {int(offset): schedule.position(offset) for offset in np.unique(offsets)}
    return [
        (cycle, names[offset], round(expected, 6))
        for cycle, offset, expected in zip(
            schedule.playable.cycle[notes].tolist(), offsets.tolist(), asked_s[notes].tolist(), strict=True
        )
    ]


def _too_few(caught: int) -> str:
    return f"{caught} notes were caught; a reading needs at least {MIN_NOTES}"


def _reasons(heard: Heard, spans: list[Span], silences: list[SilenceReading]) -> list[str]:
    reasons = []
    if not heard.n:
        reasons.append(
            "no note was caught while the click sounded, so the player's place and the returns are not known"
        )
    for number, span in enumerate(spans, start=1):
        if not span.readable:
            share = f"{span.caught} of {span.asked} notes caught"
            reasons.append(f"silence {number} can't be read: {share}, and half are needed")
        elif silences[number - 1].slip_beats and span.caught < CLOSELY * span.asked:
            reasons.append(
                f"silence {number} came back whole beats off, and {span.asked - span.caught} of its notes were not"
                " caught: how many beats, and to which side, the notes alone can't say"
            )
    return reasons
