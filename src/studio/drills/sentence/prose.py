"""The drill in words: what sounds, for how long, and how long each silence lasts."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from giusto.drill import Drill
from giusto.drill.file import STRAIGHT, FixedSilence, GrowingSilence, RandomSilence, Segment
from giusto.schedule import Schedule
from studio.drills.draw import is_anew
from studio.drills.sentence.note_words import beat_word, note_word
from studio.drills.sentence.places import click_word
from studio.drills.sentence.places import click_words as words_of_clicks
from studio.words import joined, minutes, ordinal, times

UNRETURNED = "The last silence has no click after it and can’t be read."
QUARTER = Fraction(1, 4)
UNIT_WORDS = {"beat": "beats", "cycle": "bars"}
MOST_NAMED = 6  # places; more are counted


def click_words(drill: Drill) -> str:
    """Return where the click sounds, such as ``beats 2 and 4``."""
    word, on = click_word(drill), list(drill.clicks.on)
    if word != "marked":
        return words_of_clicks()[word]
    if len(on) > MOST_NAMED:
        return f"{len(on)} places of the bar"
    return f"{'beat' if len(on) == 1 else 'beats'} {joined(on)}"


def every_words(drill: Drill) -> str:
    """Return which cycles the click is for: nothing where it is all of them."""
    every = drill.clicks.every
    return "" if every == 1 else f"every {ordinal(every)} bar"


def silence_words(drill: Drill) -> str:
    """Return how heard and silent cycles alternate, such as ``2 bars with it and 2 alone``."""
    silence = drill.clicks.silence
    if isinstance(silence, FixedSilence | GrowingSilence):
        heard = f"{silence.heard} bar{'s' if silence.heard > 1 else ''}"
        grows = f", growing to {silence.max}" if isinstance(silence, GrowingSilence) else ""
        return f"{heard} with it and {silence.silent} alone{grows}"
    if isinstance(silence, RandomSilence):
        return f"{100 * silence.probability:g}\u00a0% of the {UNIT_WORDS[silence.unit]} missing by chance"
    return ""


def shift_words(drill: Drill) -> str:
    """Return how the click moves."""
    shift = drill.clicks.shift
    return f"moving by {shift.by} of a beat" if shift else ""


def swing_words(drill: Drill) -> str:
    """Return how the halves of a beat swing: nothing where they are alike."""
    swing = drill.clicks.swing
    return "" if swing == STRAIGHT else f"swung {swing:g}\u00a0:\u00a01"


def tempo_words(drill: Drill) -> str:
    """Return the tempo, such as ``Quarter = 96`` or ``Quarter = 60, 2 faster every 8 cycles, up to 120``."""
    tempo = drill.tempo
    start = f"{beat_word(tempo.beat)} = {tempo.bpm:g}"
    steps = tempo.steps
    if steps is None:
        return start
    up = steps.to >= tempo.bpm
    size = "a step of the old scale" if steps.by == "notch" else f"{abs(steps.by):g}"
    cycles = "bar" if steps.every_cycles == 1 else f"{steps.every_cycles} bars"
    way = f"{size} {'faster' if up else 'slower'} every {cycles}, {'up' if up else 'down'} to {steps.to:g}"
    return f"{start}, {way}"


def drill_words(drill: Drill) -> str:
    """Return a drill in a few words, such as ``96, eighths``: its tempo, and what is played."""
    tempo, notes = drill.tempo, note_word(drill.tempo.beat, drill.part.grid)
    steps = f" to {tempo.steps.to:g}" if tempo.steps else ""
    return (
        f"{tempo.bpm:g}{steps}, {notes}"
        if Fraction(tempo.beat) == QUARTER
        else f"{beat_word(tempo.beat)} = {tempo.bpm:g}{steps}, {notes}"
    )


def title(drill: Drill) -> str:
    """Return a name for a drill that was made in the sentence."""
    parts = (click_words(drill), every_words(drill), silence_words(drill), shift_words(drill), swing_words(drill))
    words = ", ".join(filter(None, parts))
    return (words[0].upper() + words[1:])[:120].strip()


def short(drill: Drill) -> str:
    """Return one line for the foot of a page: ``Quarter = 96, every beat, 2 cycles with it …``."""
    parts = [
        tempo_words(drill),
        click_words(drill),
        every_words(drill),
        silence_words(drill),
        shift_words(drill),
        swing_words(drill),
    ]
    return ", ".join(part for part in parts if part)


def length_words(plan: Schedule) -> str:
    """Return how long a silence is, how many there are, and the whole: ``2 bars = 8 beats = 5 s, four times; …``."""
    whole = minutes(float(plan.seconds(plan.end_tick)))
    silence, drill = plan.drill.clicks.silence, plan.drill
    if not isinstance(silence, FixedSilence) or drill.tempo.steps or not plan.silences:
        return f"{_silences(plan).rstrip('.')}; {whole} in all"
    beats = silence.silent * drill.cycle.beats
    bars = f"{silence.silent} bar{'' if silence.silent == 1 else 's'}"
    long = f"{bars} = {beats} beats = {beats * plan.beat_s:.0f}\u00a0s"
    turns, rest = divmod(drill.cycles, silence.heard + silence.silent)
    return f"{long}, {times(turns + (rest > silence.heard))}; {whole} in all"


def facts(plan: Schedule) -> list[str]:
    """Return what is folded beside the sentence: silences and their length, beat, bar, whole, notes."""
    return [
        _silences(plan),
        f"{minutes(float(plan.seconds(plan.end_tick)))} in all, count-in and close included.",
        _beat(plan),
        _apart(plan),
        _notes(plan),
    ]


def _beat(plan: Schedule) -> str:
    cycle_s = plan.between_s(0, plan.cycle_ticks)
    first = " at first" if plan.drill.tempo.steps else ""
    return f"A beat lasts {1000 * plan.beat_s:.0f}\u00a0ms{first}, a bar {cycle_s:.3g}\u00a0s."


def _silences(plan: Schedule) -> str:
    lengths = sorted({round(plan.between_s(s.start_tick, s.end_tick), 1) for s in plan.silences})
    if not lengths:
        if not plan.drill.clicks.on:
            return "No click: your own tempo, all the way."
        return UNRETURNED if plan.unreturned else "No silence longer than a beat."
    span = f"{lengths[0]:.1f} s" if len(lengths) == 1 else f"{lengths[0]:.1f} to {lengths[-1]:.1f} s"
    said = f"{len(plan.silences)} silence{'s' if len(plan.silences) > 1 else ''} of {span}"
    if is_anew(plan.drill):
        return f"Drawn when you play; the example has {said}."
    return f"{said}. {UNRETURNED}" if plan.unreturned else f"{said}."


def _apart(plan: Schedule) -> str:
    """Say how far apart the body's clicks are, where that is one length and not a beat."""
    body = plan.clicks.tick[plan.clicks.cycle >= 1]
    body = body[body < plan.body_tick + plan.drill.cycles * plan.cycle_ticks]
    gaps = np.unique(np.diff(body))
    if gaps.size != 1 or gaps[0] == plan.ticks_per_beat or plan.drill.tempo.steps:
        return ""
    apart_s = float(plan.seconds(int(gaps[0])))
    return f"A click every {apart_s:.3g}\u00a0s, {60 / apart_s:.3g} a minute."


def _notes(plan: Schedule) -> str:
    part = plan.drill.part
    if part.play == "free":
        return "No note is asked for."
    word = note_word(plan.drill.tempo.beat, part.grid)
    kind = word if part.play == "grid" else f"notes on {word}"
    if not isinstance(part.play, str) and isinstance(part.play[0], Segment):
        kind = "notes in turns"
    return f"{len(plan.notes)} {kind} to play, from the first bar through the close."
