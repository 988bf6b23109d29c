"""Scores as Standard MIDI Files: a part a track, bars by the time signatures, onsets on divisions of the beat."""

from __future__ import annotations

import io
from dataclasses import dataclass
from fractions import Fraction

import mido

from giusto.drill.passage.bars import Bar, Score, ScorePart, counted
from giusto.errors import GiustoError

FINEST = 96  # ours: parts of a quarter that a written note may begin at, thirds and sixteenths of an eighth among them
MOST_BARS = 5000  # ours
MICROSECONDS_A_MINUTE = 60_000_000
QUARTER = Fraction(1, 4)


@dataclass(frozen=True, slots=True)
class _Metre:
    tick: int
    beats: int
    beat_type: int


def read_midi(content: bytes) -> Score:
    """Read a Standard MIDI File; each track with notes is a part, and both hands are in it.

    Raises
    ------
    GiustoError
        ``score``, where it can't be read, or a note lies on no division of the beat, with its bar.
    """
    try:
        file = mido.MidiFile(file=io.BytesIO(content))
    except (OSError, EOFError, ValueError, IndexError, KeyError) as error:
        raise GiustoError(f"the MIDI file can't be read: {str(error)[:120] or 'it ends early'}", code="score") from None
    if not 0 < file.ticks_per_beat < 0x8000:
        raise GiustoError("the MIDI file counts in seconds, allowed are ticks of a quarter", code="score")
    metres, tempo, tracks = _read(file)
    end = max((max(ticks) for _, ticks in tracks if ticks), default=0)
    bars = _bars(metres, end, file.ticks_per_beat)
    parts = tuple(
        ScorePart(name or f"Track {number}", {"": tuple(_filled(bars, ticks, file.ticks_per_beat))})
        for number, (name, ticks) in enumerate(tracks, start=1)
        if ticks
    )
    if not parts:
        raise GiustoError("the MIDI file has no note", code="score")
    return Score("", tempo, parts)


def _read(file: mido.MidiFile) -> tuple[list[_Metre], float | None, list[tuple[str, list[int]]]]:
    metres, tempo, tracks = [_Metre(0, 4, 4)], None, []
    for track in file.tracks:
        tick, ticks = 0, set()
        for message in track:
            tick += message.time
            if message.type == "time_signature":
                metres.append(_Metre(tick, message.numerator, message.denominator))
            elif message.type == "set_tempo" and tempo is None:
                tempo = round(MICROSECONDS_A_MINUTE / message.tempo, 3)
            elif message.type == "note_on" and message.velocity:
                ticks.add(tick)
        tracks.append((" ".join(str(track.name).split())[:60], sorted(ticks)))
    by_tick = {metre.tick: metre for metre in metres}  # of two at one place the later
    return [by_tick[tick] for tick in sorted(by_tick)], tempo, tracks


def _bars(metres: list[_Metre], end: int, quarter: int) -> list[tuple[str, int, int, Fraction, int]]:
    """Return number, first tick, ticks, note value of a beat and beats of every bar."""
    found: list[tuple[str, int, int, Fraction, int]] = []
    for index, metre in enumerate(metres):
        ticks = Fraction(quarter * 4 * metre.beats, metre.beat_type)
        until = metres[index + 1].tick if index + 1 < len(metres) else end + 1
        beat, full = counted(metre.beats, metre.beat_type)
        at = metre.tick
        while at < until:
            number = str(len(found) + 1)
            if ticks.denominator != 1:
                raise GiustoError(f"bar {number} lasts no whole number of ticks", code="score")
            length = min(int(ticks), until - at) if index + 1 < len(metres) else int(ticks)
            found.append((number, at, length, beat, full))
            if len(found) > MOST_BARS:
                raise GiustoError(f"the MIDI file has more than {MOST_BARS:,} bars", code="score")
            at += length
    return found


def _filled(bars: list[tuple[str, int, int, Fraction, int]], ticks: list[int], quarter: int) -> list[Bar]:
    found = []
    for number, start, length, beat, full in bars:
        a_beat = Fraction(quarter) * beat / QUARTER
        inside = [tick - start for tick in ticks if start <= tick < start + length]
        for tick in inside:
            if FINEST % Fraction(tick, quarter).denominator:
                problem = f"a note begins at {tick} of {quarter} ticks a quarter, which is no division of the beat"
                raise GiustoError(f"bar {number}: {problem}; allowed are written, not played, notes", code="score")
        onsets = tuple(Fraction(tick) / a_beat for tick in inside)
        found.append(Bar(number, beat, Fraction(length) / a_beat, full, onsets))
    return found
