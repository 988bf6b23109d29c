"""One take from its notes to all that is said of it.

Matching gives each asked note its error; the timekeeper takes clock and hand apart; what is left is
measured against the player's own place.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil

import numpy as np
from numpy.typing import ArrayLike, NDArray

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.errors import GiustoError
from giusto.figures.doubles import doubles
from giusto.figures.held import called
from giusto.figures.place import Place, place_of, recovery
from giusto.figures.silence import READABLE_SHARE, SilenceReading, SilenceSpan, read_silence, unread
from giusto.figures.tempo_thread import tempo_thread
from giusto.missing import Missing
from giusto.notes.chance import is_by_chance
from giusto.notes.checks import checked_onsets
from giusto.notes.match import Matching, match
from giusto.notes.record import Played, notes_of
from giusto.ranges import Z95
from giusto.reading.format import Counts, Extra, Match, Missed, Reading, Thread
from giusto.reading.measured import Measured, Whole, how_drifts_came, whole_of
from giusto.schedule.layout import Schedule
from giusto.schedule.timeline import REACTION_S, Timeline, returns, timeline
from giusto.timekeeper.excerpt import MIN_NOTES
from giusto.timekeeper.prior import WEAK, Prior, Seen
from giusto.timekeeper.take import chain
from giusto.timekeeper.track import smooth

MOST_ANSWERS = 64  # ours: notes before a return that may have been played after it
CLOSELY = 0.9  # ours: share of a silence's notes that must be caught to follow it beat by beat


@dataclass(frozen=True, slots=True)
class Analysis:
    """A reading, its thread, and the sizes behind it; neither of these where too few notes were caught."""

    reading: Reading
    thread: Thread | None
    sizes: Seen | None


@dataclass(frozen=True, slots=True)
class _Found:
    """What is said of a take besides its counts."""

    heard: Place
    silences: list[SilenceReading]
    notes: list[str]
    whole: Whole
    thread: Thread | None = None
    sizes: Seen | None = None


def analyse(
    schedule: Schedule, notes: Played | ArrayLike, *, prior: Prior = WEAK, sections: Sequence[int] = ()
) -> Analysis:
    """Read a take.

    Parameters
    ----------
    schedule : Schedule
        Of the drill as it was played.
    notes : Played, or array_like, shape (played,)
        As played; onsets alone, in seconds from the drill's time zero, will do.
    prior : Prior
        What is known of the player's noise beforehand: weak, or from earlier takes.
    sections : sequence of int
        Cycles of each section that was marked, where the take is mostly alone.

    Returns
    -------
    Analysis

    Raises
    ------
    GiustoError
        Where onsets break a rule, or where the numbers of a take can't be worked with (``numerical``).
    """
    played = notes if isinstance(notes, Played) else notes_of(checked_onsets(notes))
    try:
        found = _analysis(schedule, played, prior)
    except np.linalg.LinAlgError as error:
        raise GiustoError(f"the take's numbers can't be worked with: {error}", code="numerical") from error
    return replace(found, reading=_with_thread(found.reading, schedule, played, sections))


def _with_thread(reading: Reading, schedule: Schedule, played: Played, sections: Sequence[int]) -> Reading:
    """Return a reading with the tempo all the way, where the click is but a start or nothing at all."""
    if not schedule.is_mostly_alone:
        return reading
    body_s = float(schedule.seconds(schedule.body_tick)) - schedule.beat_s / 2
    drill = schedule.drill
    found = tempo_thread(
        played.onset_s[played.onset_s >= body_s],
        asked_bpm=drill.tempo.bpm,
        grid=drill.part.grid,
        cycle_beats=drill.cycle.beats,
        sections=sections,
    )
    if isinstance(found, Missing):
        said = f"{found.figure}: {found.reason}"
        return replace(reading, notes=[*reading.notes, said], missing=[*reading.missing, found])
    heard = reading.heard if drill.clicks.on else replace(reading.heard, mean_error_ms=None, ci95_ms=None)
    return replace(reading, tempo=found, heard=heard)


def _analysis(schedule: Schedule, played: Played, prior: Prior) -> Analysis:
    played_s = played.onset_s
    matching = match(schedule, played_s)
    line = timeline(schedule)
    asked_s = schedule.seconds(schedule.playable.tick)
    error_s = _errors(line, asked_s, played_s, matching)
    spans = _spans(schedule, matching)
    nothing = _nothing(schedule, played_s, matching)
    if nothing:
        found = _Found(Place(0), [unread(span) for span in spans], [nothing.reason], Whole(missing=(nothing,)))
    else:
        found = _measured(schedule, line, error_s, spans, prior, _at_moments(line, matching, played))
    missed = matching.missed[:0] if schedule.is_free else matching.missed
    reading = _written(schedule, matching, missed, asked_s, played, found)
    return Analysis(reading, found.thread, found.sizes)


def _nothing(schedule: Schedule, played_s: FloatArray, matching: Matching) -> Missing | None:
    """Return why nothing can be said of the time in a take, or None where something can."""
    if matching.asked.size < MIN_NOTES:
        return Missing("reading", "few-notes", matching.asked.size, MIN_NOTES)
    if is_by_chance(schedule, played_s, matching):
        return Missing("reading", "by-chance")
    return None


def _written(
    schedule: Schedule,
    matching: Matching,
    missed: IntArray,
    asked_s: FloatArray,
    played: Played,
    found: _Found,
) -> Reading:
    whole, rhythm, played_s = found.whole, found.whole.rhythm, played.onset_s
    slot_s = float(np.min(np.diff(asked_s), initial=schedule.beat_s))
    return Reading(
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
        notes=[*found.notes, *(f"{m.figure}: {m.reason}" for m in whole.missing if m.figure not in NOT_FIGURES)],
        lengths=rhythm.lengths if rhythm else None,
        swing=rhythm.swing if rhythm else None,
        course=whole.drift_shape,
        together=whole.together,
        fatigue=whole.fatigue,
        places=whole.beat_leans,
        missing=list(whole.missing),
        hands=whole.hands,
        accents=whole.accents,
        doubles=doubles(played_s, played.source, slot_s=slot_s),
    )


NOT_FIGURES = ("reading", "heard", "silences")  # what is missing of these stands first, as a sentence of its own


def _at_moments(line: Timeline, matching: Matching, played: Played) -> tuple[NDArray[np.str_], FloatArray]:
    """Return what made the note of each moment, and how strong it was; "" and NaN where there is none."""
    moments = line.of_note[matching.asked]
    made_by = np.zeros(len(line), dtype=played.source.dtype)
    strength = np.full(len(line), np.nan)
    made_by[moments], strength[moments] = played.source[matching.played], played.strength[matching.played]
    return made_by, strength


def _measured(
    schedule: Schedule,
    line: Timeline,
    error_s: FloatArray,
    spans: list[SilenceSpan],
    prior: Prior,
    struck: tuple[NDArray[np.str_], FloatArray],
) -> _Found:
    in_beat = schedule.playable.offset % schedule.ticks_per_beat
    take = chain(line, error_s, note_in_beat=in_beat, beat_s=schedule.mean_beat_s)
    track = smooth(take, line.start, line.end, prior=prior)
    own_ms = take.error_ms - track.slot_ms[take.slot]
    at_home = own_ms - recovery(track, line)
    is_heard = line.with_click & take.caught
    steps_ms = np.diff(at_home)[is_heard[:-1] & is_heard[1:]]
    heard = place_of(at_home[is_heard], steps_ms, track)
    place_ms = track.place_ms if heard.mean_error_ms is None else heard.mean_error_ms
    clock_ms = track.clock_ms + track.place_ms - place_ms
    readable = np.array([span.readable for span in spans], dtype=bool)
    measured = Measured(schedule, line, take, track, clock_ms, own_ms - place_ms, at_home - place_ms, readable, *struck)
    bends = measured.bends()
    silences = [
        read_silence(
            span,
            drift_ms=float(track.drift_ms[i]),
            drift_var=float(track.drift_var[i]),
            return_ms=None if heard.mean_error_ms is None else float(clock_ms[line.end[i]]),
            return_var=float(track.clock_var[line.end[i]]),
            bpm=schedule.bpm_in(schedule.silences[i]),
            lean=float(track.lean[i]),
            lean_var=float(track.lean_var[i]),
            course=came,
            is_followed=_is_followed(line, own_ms, spans[i], i),
        )
        for i, (span, came) in enumerate(zip(spans, how_drifts_came(measured, bends), strict=True))
    ]
    silences = called(silences)
    thread = Thread(_ticks(schedule, line), clock_ms, Z95 * np.sqrt(np.maximum(track.clock_var, 0)), own_ms - place_ms)
    whole = whole_of(measured, bends, prior)
    for number, span in enumerate(spans, start=1):
        if span.stopped:
            whole = whole.without(Missing("silences", "stopped", number))
    if not heard.n:
        whole = whole.without(Missing("heard", "no-place"))
    seen = track.likely.seen if track.likely else None
    return _Found(heard, silences, _reasons(heard, spans, silences), whole, thread, seen)


def _is_followed(line: Timeline, own_ms: FloatArray, span: SilenceSpan, index: int) -> bool:
    """Return whether the notes of a silence lead from its start to its end, without holes and without a leap."""
    inside = own_ms[line.start[index] : line.end[index] + 1]
    steps_ms = np.abs(np.diff(inside[np.isfinite(inside)]))
    half_ms = 500 * line.beat_s[line.start[index]]
    return span.caught >= CLOSELY * span.asked and float(steps_ms.max(initial=0.0)) < half_ms


def _ticks(schedule: Schedule, line: Timeline) -> IntArray:
    tick = np.full(len(line), 0)
    tick[line.of_note] = schedule.playable.tick
    tick[line.start] = [s.start_tick for s in schedule.silences]
    tick[line.end] = [s.end_tick for s in schedule.silences]
    return tick


def _errors(line: Timeline, asked_s: FloatArray, played_s: FloatArray, matching: Matching) -> FloatArray:
    """Return the error of each asked note that tells of the clock; NaN where it was missed, or moved by a click."""
    error_s = np.full(asked_s.size, np.nan)
    error_s[matching.asked] = played_s[matching.played] - asked_s[matching.asked]
    error_s[_answers(line, asked_s, error_s)] = np.nan
    return error_s


def _answers(line: Timeline, asked_s: FloatArray, error_s: FloatArray) -> BoolArray:
    """Return the notes counted to a silence that answer the click it ended with.

    More than half a beat late, a player has heard the click before the note, and a note that leaves
    its neighbour by as much was moved by it: neither tells of the silence.
    """
    answers = np.zeros(error_s.size, dtype=bool)
    before = 0
    for moment in returns(line).tolist():
        half_s = line.beat_s[max(moment - 1, 0)] / 2  # of the silence's own tempo
        after = int(np.searchsorted(line.of_note, moment, side="right"))
        some = np.arange(max(after - MOST_ANSWERS, before), after)  # of this silence, and not of one before it
        before = after
        some = some[np.isfinite(error_s[some])]
        late_s = asked_s[some] + error_s[some] - line.time_s[moment]
        off = np.any(np.abs(error_s[some]) > half_s)
        moved = np.abs(np.diff(error_s[some], prepend=error_s[some[:1]])) > half_s
        answers[some] = off & ((late_s > REACTION_S) | (moved & (late_s > 0)))
    return answers


def _spans(schedule: Schedule, matching: Matching) -> list[SilenceSpan]:
    tick = schedule.playable.tick
    caught = np.zeros(tick.size + 1, dtype=np.int64)
    caught[matching.asked + 1] = 1
    caught = np.cumsum(caught)
    last_tick = int(tick[matching.asked[-1]]) if matching.asked.size else -1
    spans = []
    for silence in schedule.silences:
        first = int(np.searchsorted(tick, silence.start_tick))
        last = int(np.searchsorted(tick, silence.end_tick, side="right"))
        length = silence.end_tick - silence.start_tick
        caught_here = int(caught[last] - caught[first])
        reached = last_tick >= silence.end_tick - schedule.ticks_per_beat
        asked_so_far = int(np.searchsorted(tick, last_tick, side="right")) - first
        spans.append(
            SilenceSpan(
                start_s=round(float(schedule.seconds(silence.start_tick)), 6),
                end_s=round(float(schedule.seconds(silence.end_tick)), 6),
                beats=round(length / schedule.ticks_per_beat, 6),
                asked=schedule.asked_in(silence),
                caught=caught_here,
                reached=reached,
                stopped=not reached and caught_here >= max(READABLE_SHARE * asked_so_far, 1),
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


def _reasons(heard: Place, spans: list[SilenceSpan], silences: list[SilenceReading]) -> list[str]:
    reasons = [] if heard.n else [Missing("heard", "no-place").reason]
    for number, (span, silence) in enumerate(zip(spans, silences, strict=True), start=1):
        if span.stopped:
            reasons.append(Missing("silences", "stopped", number).reason)
        elif not span.readable:
            share = f"{span.caught} of {span.asked} notes caught, and {ceil(span.enough)} are needed"
            reasons.append(f"silence {number} can't be read: {share}")
        elif silence.slip_beats and span.caught < CLOSELY * span.asked:
            reasons.append(
                f"silence {number} came back whole beats off, and {span.asked - span.caught} of its notes were not"
                " caught: how many beats, and to which side, the notes alone can't say"
            )
    return reasons
