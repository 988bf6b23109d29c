"""The click of a drill as a Standard MIDI File: tempo, metre, notes on the percussion channel."""

from __future__ import annotations

from fractions import Fraction
from math import lcm
from pathlib import Path

import mido

from giusto.errors import GiustoError
from giusto.schedule import Schedule
from giusto.tempo import beat_period_s

PERCUSSION = 9  # channel 10, counted from 0
# General MIDI percussion (from memory): 76 high wood block, 77 low wood block; and how hard.
NOTES = {"accent": (76, 120), "click": (77, 100), "count": (77, 100), "sub": (77, 50)}
FINEST, WANTED = 32_767, 480  # ticks a quarter: what the header holds, and what is usual
SLOWEST_US = 2**24 - 1  # µs a quarter: what a tempo event holds


def write_midi(schedule: Schedule, path: Path) -> None:
    """Write the click of a drill as a MIDI file of format 1.

    Parameters
    ----------
    schedule : Schedule
    path : Path

    Raises
    ------
    GiustoError
        ``too_fine`` where the places need more ticks than a file holds, ``too_slow`` where a quarter
        lasts longer than a file can say.

    Notes
    -----
    A beat of value v lasts 4·v quarters: at dotted quarter = 90 the file says quarter = 135.
    """
    quarters = Fraction(schedule.drill.tempo.beat) * 4
    per_quarter = _ticks_per_quarter(schedule, quarters)
    per_tick = Fraction(per_quarter) * quarters / schedule.ticks_per_beat
    file = mido.MidiFile(type=1, ticks_per_beat=per_quarter)
    file.tracks.append(_conductor(schedule, quarters, int(per_tick)))
    file.tracks.append(_clicks(schedule, int(per_tick), max(per_quarter // 16, 1)))
    file.save(path)


def _ticks_per_quarter(schedule: Schedule, quarters: Fraction) -> int:
    needed = (quarters / schedule.ticks_per_beat).denominator
    if needed > FINEST:
        message = f"the drill needs {needed:,} ticks a quarter, a MIDI file holds {FINEST:,}"
        raise GiustoError(message, code="too_fine")
    usual = lcm(needed, WANTED)
    return usual if usual <= FINEST else needed * max(1, WANTED // needed)


def _conductor(schedule: Schedule, quarters: Fraction, per_tick: int) -> mido.MidiTrack:
    """Return the track of name, metre and tempos."""
    above, _, below = schedule.drill.tempo.beat.partition("/")
    numerator = schedule.drill.cycle.beats * int(above)
    track = mido.MidiTrack([mido.MetaMessage("track_name", name=_ascii(schedule.drill.name))])
    now = 0
    for tick, bpm in zip(schedule.tempos.tick.tolist(), schedule.tempos.bpm, strict=True):
        track.append(mido.MetaMessage("set_tempo", tempo=_quarter_us(bpm, quarters), time=tick * per_tick - now))
        now = tick * per_tick
        if not tick and numerator <= 255:  # the event holds one byte
            track.append(mido.MetaMessage("time_signature", numerator=numerator, denominator=int(below)))
    return track


def _quarter_us(bpm: Fraction, quarters: Fraction) -> int:
    tempo_us = round(beat_period_s(bpm) / quarters * 1_000_000)
    if tempo_us > SLOWEST_US:
        raise GiustoError(f"a quarter lasts {tempo_us:,} µs, a MIDI file says at most {SLOWEST_US:,}", code="too_slow")
    return tempo_us


def _clicks(schedule: Schedule, per_tick: int, length: int) -> mido.MidiTrack:
    ticks = (schedule.clicks.tick * per_tick).tolist()
    spans = [min(length, max(b - a, 1)) for a, b in zip(ticks, [*ticks[1:], ticks[-1] + length], strict=True)]
    track, now = mido.MidiTrack(), 0
    for tick, span, kind in zip(ticks, spans, schedule.kinds.tolist(), strict=True):
        note, velocity = NOTES[kind]
        track.append(mido.Message("note_on", channel=PERCUSSION, note=note, velocity=velocity, time=tick - now))
        track.append(mido.Message("note_off", channel=PERCUSSION, note=note, time=span))
        now = tick + span
    return track


def _ascii(name: str) -> str:
    return name.encode("latin-1", "replace").decode("latin-1")
