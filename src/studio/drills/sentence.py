"""The drill in words: what sounds, for how long, and how long each silence lasts."""

from __future__ import annotations

import numpy as np

from giusto.drill import Drill, FixedSilence, GrowingSilence, RandomSilence, Segment
from giusto.schedule import Schedule
from giusto.tempo_scale import tempo_word
from studio.drills.note_words import beat_word, note_word

MOST_NAMED = 6  # places; more are counted
# Where the click may sound, by a word of the sentence.
CLICK_WORDS = {
    "every": "every beat",
    "two-four": "beats 2 and 4",
    "offbeats": "the offbeats",
    "one": "beat 1",
    "three": "beat 3",
    "four": "beat 4",
    "last-eighth": "the last eighth",
    "last-sixteenth": "the last sixteenth",
    "marked": "places you mark:",
}


def click_places(word: str, beats: int) -> list[str]:
    """Return the positions that a word of the sentence stands for."""
    counted = [str(beat + 1) for beat in range(beats)]
    places = {
        "every": counted,
        "two-four": ["2", "4"],
        "offbeats": [f"{beat}+1/2" for beat in counted],
        "one": ["1"],
        "three": ["3"],
        "four": ["4"],
        "last-eighth": [f"{beats}+1/2"],
        "last-sixteenth": [f"{beats}+3/4"],
    }
    return places[word]


def click_word(drill: Drill) -> str:
    """Return the word that stands for the drill's positions, ``marked`` where none does."""
    for word in CLICK_WORDS:
        if word != "marked" and click_places(word, drill.cycle.beats) == list(drill.clicks.on):
            return word
    return "marked"


def click_words(drill: Drill) -> str:
    """Return where the click sounds, such as ``beats 2 and 4``."""
    word, on = click_word(drill), list(drill.clicks.on)
    if word != "marked":
        return CLICK_WORDS[word]
    if len(on) > MOST_NAMED:
        return f"{len(on)} places of the cycle"
    return f"{'beat' if len(on) == 1 else 'beats'} {joined(on)}"


def every_words(drill: Drill) -> str:
    """Return which cycles the click is for: nothing where it is all of them."""
    every = drill.clicks.every
    return "" if every == 1 else f"every {ordinal(every)} cycle"


def silence_words(drill: Drill) -> str:
    """Return how heard and silent cycles alternate, such as ``2 cycles with it and 2 alone``."""
    silence = drill.clicks.silence
    if isinstance(silence, FixedSilence | GrowingSilence):
        heard = f"{silence.heard} cycle{'s' if silence.heard > 1 else ''}"
        grows = f", growing to {silence.max}" if isinstance(silence, GrowingSilence) else ""
        return f"{heard} with it and {silence.silent} alone{grows}"
    if isinstance(silence, RandomSilence):
        return f"{100 * silence.probability:g}\u00a0% of the {silence.unit}s missing by chance"
    return ""


def shift_words(drill: Drill) -> str:
    """Return how the click moves."""
    shift = drill.clicks.shift
    return f"moving by {shift.by} of a beat" if shift else ""


def title(drill: Drill) -> str:
    """Return a name for a drill that was made in the sentence."""
    parts = (click_words(drill), every_words(drill), silence_words(drill), shift_words(drill))
    words = ", ".join(filter(None, parts))
    return (words[0].upper() + words[1:])[:120]


def short(drill: Drill) -> str:
    """Return one line for the foot of a page: ``Quarter = 96, every beat, 2 cycles with it …``."""
    parts = [
        f"{beat_word(drill.tempo.beat)} = {drill.tempo.bpm:g}",
        click_words(drill),
        every_words(drill),
        silence_words(drill),
        shift_words(drill),
    ]
    return ", ".join(part for part in parts if part)


def facts(plan: Schedule) -> list[str]:
    """Return what stands beside the sheet: silences and their length, beat, cycle, whole, tempo's word."""
    drill = plan.drill
    return [
        _silences(plan),
        f"{minutes(float(plan.seconds(plan.end_tick)))} in all, count-in and close included.",
        f"A beat lasts {1000 * plan.beat_s:.0f}\u00a0ms, a cycle {float(plan.seconds(plan.cycle_ticks)):.3g}\u00a0s.",
        _apart(plan),
        _notes(plan),
        f"{tempo_word(drill.tempo.bpm, table='printed')} by the scale’s printed ranges,"
        f" {tempo_word(drill.tempo.bpm, table='single').lower()} by a table of single values: tables differ.",
    ]


def _silences(plan: Schedule) -> str:
    lengths = sorted({round(float(plan.seconds(s.end_tick - s.start_tick)), 1) for s in plan.silences})
    if not lengths:
        return "No silence longer than a beat."
    span = f"{lengths[0]:.1f} s" if len(lengths) == 1 else f"{lengths[0]:.1f} to {lengths[-1]:.1f} s"
    return f"{len(plan.silences)} silence{'s' if len(plan.silences) > 1 else ''} of {span}."


def _apart(plan: Schedule) -> str:
    """Say how far apart the body's clicks are, where that is one length and not a beat."""
    body = plan.clicks.tick[plan.clicks.cycle >= 1]
    body = body[body < plan.body_tick + plan.drill.cycles * plan.cycle_ticks]
    gaps = np.unique(np.diff(body))
    if gaps.size != 1 or gaps[0] == plan.ticks_per_beat:
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
    return f"{len(plan.notes)} {kind} to play, from the first cycle through the close."


def minutes(seconds: float) -> str:
    """Return a length such as ``45 s`` or ``2 min 5 s``."""
    whole = round(seconds)
    return f"{whole} s" if whole < 60 else f"{whole // 60} min {whole % 60} s"


def joined(words: list[str]) -> str:
    """Return words as ``a``, ``a and b`` or ``a, b and c``."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def ordinal(number: int) -> str:
    """Return ``second`` to ``eighth``, then ``9th`` and so on."""
    words = {2: "second", 3: "third", 4: "fourth", 5: "fifth", 6: "sixth", 7: "seventh", 8: "eighth"}
    return words.get(number, f"{number}th")
