"""A recording made elsewhere, brought into drill time: by the click that bleeds into it, else by its notes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from giusto.arrays import FloatArray
from giusto.click.voice import VOICES, AnyVoice
from giusto.errors import GiustoError
from giusto.hearing.content import content_of
from giusto.hearing.files import opened
from giusto.hearing.find_click import ROUGH_MOST_S, other_take, place_of
from giusto.hearing.onsets import Heard, onsets
from giusto.hearing.others import remarks_of
from giusto.hearing.recorder_clock import ClockLine
from giusto.hearing.sound import Sound, Watched
from giusto.hearing.source import Kind, Source
from giusto.hearing.timbre import LEFT_OUT, Timbre, told_apart
from giusto.hearing.without_click import WithoutClick, lasting
from giusto.notes.csv_file import parse_notes
from giusto.notes.match import match
from giusto.notes.record import Played, notes_of
from giusto.ranges import Z95
from giusto.schedule import Schedule

FEWEST_NOTES = 3
PASSES = 2.6  # ours: how often a sound is read in all, once its click is found
FIRST_NOTES = 8  # ours: as many of the first notes may be the first that was asked for
COUNT_NEAR = 0.2  # ours: of a beat, how near a note of the count-in is to its click
BEFORE_S, AFTER_S = 1.0, 2.0  # ours: before the drill's time zero and after its end notes still belong to it
BY_NOTES = (
    "the click is not heard in the recording: time zero is where the notes fit the asked tempo best, so that your place"
    " with the click is not known and is left out, and the recorder’s clock counts as right"
)
TWICE = (
    "the drill is heard in this recording more than once: what begins at {:.1f} s is read, not what begins at {:.1f} s;"
    " cut the file in two to have both"
)
BY_COUNT = (
    "the click is not heard in the recording: time zero is the count-in that you played, so that your place with the"
    " click is not known and is left out, and the recorder’s clock counts as right"
)


@dataclass(frozen=True, slots=True)
class Recording:
    """Notes of a recording in drill time, and what their times rest on.

    Attributes
    ----------
    notes : Played
    line : ClockLine
    kind : {"sound", "midi", "notes"}
    remarks : tuple of str
    of_file : tuple of str
        What the file was found to be like.
    """

    notes: Played
    line: ClockLine
    kind: Kind
    remarks: tuple[str, ...]
    of_file: tuple[str, ...] = ()

    def source(self) -> Source:
        """Return what ``reading/1`` says of it."""
        line = self.line
        low, high = line.zero_ci95_s
        return Source(
            kind=self.kind,
            zero_s=round(line.zero_s, 6),
            zero_ci95_ms=(round(1000 * low, 4), round(1000 * high, 4)),
            clock_ppm=None if line.ppm is None else round(line.ppm, 2),
            clock_ci95_ppm=None if line.ppm_ci95 is None else (round(line.ppm_ci95[0], 2), round(line.ppm_ci95[1], 2)),
            by=line.by,
            notes=self.of_file,
        )


def recorded(
    path: Path,
    plan: Schedule,
    *,
    told: Callable[[float], None] = lambda share: None,
    voices: Sequence[AnyVoice] = tuple(VOICES),
    timbres: Sequence[Timbre] = (),
) -> Recording:
    """Return the notes of a recording of a drill.

    Parameters
    ----------
    path : Path
        Sound of any container and coder of ``giusto.hearing.sound.ALLOWED``, a Standard MIDI File, or the CSV of its
        onsets, by what is in it.
    plan : Schedule
    told : callable
        Called now and then with the share of the work that is done, 0 to 1; what it raises ends the work.
    voices : sequence of str or OwnSound
        Sounds that the click may have.
    timbres : sequence of Timbre
        Of instruments that were learned.

    Raises
    ------
    GiustoError
        Where it can't be read, or nothing in it can be a take of the drill.
    """
    content = content_of(path)
    if content == "midi":
        from giusto.hearing.performance import performed

        notes = performed(path.read_bytes())
        return by_notes(notes, plan, kind="midi")
    if content == "text":
        return listed(parse_notes(path.read_bytes()), plan)
    with opened(path) as file:
        sound = file.sound
        work = PASSES * sound.frames + len(voices) * min(sound.frames, round(ROUGH_MOST_S * sound.rate_hz))
        watched = Watched(sound, lambda frames: told(min(frames / work, 1.0)))
        return replace(heard(watched, plan, voices, timbres), of_file=file.notes)


def listed(notes: Played, plan: Schedule) -> Recording:
    """Return the onsets of a file: in drill time as they stand, or moved where only that makes a take of them."""
    if not len(notes):
        raise GiustoError("the file has no onsets", code="notes")
    line = ClockLine(0.0, (0.0, 0.0), None, None, "file")
    if 2 * match(plan, notes.onset_s).asked.size >= len(notes) or len(notes) < FEWEST_NOTES:
        return Recording(notes, line, "notes", ())
    return by_notes(notes, plan, kind="notes")


def heard(
    sound: Sound,
    plan: Schedule,
    voices: Sequence[AnyVoice] = tuple(VOICES),
    timbres: Sequence[Timbre] = (),
) -> Recording:
    """Return the notes of a sound in drill time; what each was played on, where that was learned, is its source."""
    place = place_of(sound, plan, voices=voices)
    if place is None:
        names, found, remarks = _told(sound, timbres)
        notes = notes_of(found.onset_s, strength=found.strength, source=names)
        by_itself = by_notes(notes, plan, kind="sound")
        return replace(by_itself, remarks=(*by_itself.remarks, *remarks))
    line, other_s = place.line, other_take(sound, plan, place)
    names, found, told = _told(WithoutClick(sound, line, plan, lasting(place.click.voice, plan)), timbres)
    twice = () if other_s is None else (TWICE.format(line.zero_s, other_s),)
    times = line.drill_s(found.onset_s)
    near = (times > -BEFORE_S) & (times < float(plan.seconds(plan.end_tick)) + AFTER_S)
    notes = notes_of(times[near], strength=found.strength[near], source=names[near])
    return Recording(notes, line, "sound", (*twice, *told))


def _told(sound: Sound, timbres: Sequence[Timbre]) -> tuple[NDArray[np.str_], Heard, tuple[str, ...]]:
    """Return the onsets of a sound, of which instrument each is, and what was left out."""
    names, found, unlike = told_apart(sound, onsets(sound), timbres)
    left_out = (LEFT_OUT.format(unlike),) if unlike else ()
    return names, found, (*left_out, *remarks_of(found.others))


def by_notes(played: Played, plan: Schedule, *, kind: Kind) -> Recording:
    """Return notes that lie where they fit the drill best: the asked tempo, and one of the first as the first asked."""
    onset_s = played.onset_s
    asked_s = plan.seconds(plan.notes.tick)
    if onset_s.size < FEWEST_NOTES or not asked_s.size:
        problem = f"the recording has {onset_s.size} notes, allowed are {FEWEST_NOTES} at least"
        raise GiustoError(problem, code="notes")
    counts_s = plan.seconds(plan.clicks.tick[plan.kinds == "count"])
    zeros = [float(first - one) for first in onset_s[:FIRST_NOTES] for one in (asked_s[0], *counts_s[:1])]

    def fits(zero_s: float) -> int:
        counted = counts_s.size if _is_counted(onset_s - zero_s, counts_s, plan) else 0
        return int(match(plan, onset_s - zero_s).asked.size) + counted

    zero = max(zeros, key=fits)
    is_counted = _is_counted(onset_s - zero, counts_s, plan)
    for _ in range(3):
        found = match(plan, onset_s - zero)
        if found.asked.size:
            zero += float(np.median(onset_s[found.played] - zero - asked_s[found.asked]))
    found = match(plan, onset_s - zero)
    errors = onset_s[found.played] - zero - asked_s[found.asked]
    if is_counted:
        counted_s = onset_s[: counts_s.size] - counts_s
        zero, errors = float(np.mean(counted_s)), counted_s - float(np.mean(counted_s))
    half = Z95 * float(np.std(errors)) / max(np.sqrt(errors.size), 1.0) if errors.size else 0.0
    line = ClockLine(zero, (zero - half, zero + half), None, None, "count" if is_counted else "notes")
    notes = replace(played, onset_s=onset_s - zero)
    return Recording(notes, line, kind, (BY_COUNT if is_counted else BY_NOTES,))


def _is_counted(times_s: FloatArray, counts_s: FloatArray, plan: Schedule) -> bool:
    """Return whether the first notes are the count-in, played along."""
    if not counts_s.size or times_s.size < counts_s.size:
        return False
    return bool(np.all(np.abs(times_s[: counts_s.size] - counts_s) <= COUNT_NEAR * plan.beat_s))
