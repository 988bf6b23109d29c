"""The drill in words: what sounds, for how long, and how long each silence lasts."""

from __future__ import annotations

from giusto.drill import Drill, FixedSilence
from giusto.schedule import Schedule, schedule

# Where the click may sound, by a word of the sentence; {n} is the last beat of the cycle.
CLICK_WORDS = {
    "every": "every beat",
    "two-four": "beats 2 and 4",
    "offbeats": "the offbeats",
    "one": "beat 1",
    "three": "beat 3",
    "four": "beat 4",
    "last-eighth": "the last eighth",
    "last-sixteenth": "the last sixteenth",
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


def click_word(drill: Drill) -> str | None:
    """Return the word that stands for the drill's positions, None where none does."""
    for word in CLICK_WORDS:
        if click_places(word, drill.cycle.beats) == list(drill.clicks.on):
            return word
    return None


def click_words(drill: Drill) -> str:
    """Return where the click sounds, such as ``beats 2 and 4``."""
    if word := click_word(drill):
        return CLICK_WORDS[word]
    on = list(drill.clicks.on)
    return f"{'beat' if len(on) == 1 else 'beats'} {joined(on)}"


def silence_words(drill: Drill) -> str:
    """Return how heard and silent cycles alternate, such as ``2 cycles with it and 2 alone``."""
    silence = drill.clicks.silence
    if not isinstance(silence, FixedSilence):
        return ""
    heard = f"{silence.heard} cycle{'s' if silence.heard > 1 else ''}"
    return f"{heard} with it and {silence.silent} alone"


def title(drill: Drill) -> str:
    """Return a name for a drill that was made in the sentence."""
    words = ", ".join(filter(None, (click_words(drill), silence_words(drill))))
    return words[0].upper() + words[1:]


def short(drill: Drill) -> str:
    """Return one line for the foot of a page: ``Quarter = 96, every beat, 2 cycles with it …``."""
    parts = [f"Quarter = {drill.tempo.bpm:g}", click_words(drill), silence_words(drill)]
    return ", ".join(part for part in parts if part)


def facts(drill: Drill) -> list[str]:
    """Return what stands beside the sheet: silences, their length, the whole length."""
    plan = schedule(drill)
    total_s = float(plan.seconds(plan.end_tick))
    lines = [f"{minutes(total_s)} in all, count-in and close included."]
    lengths = sorted({round(_length_s(plan, i), 1) for i in range(len(plan.silences))})
    if lengths:
        count = len(plan.silences)
        span = f"{lengths[0]:.1f} s" if len(lengths) == 1 else f"{lengths[0]:.1f} to {lengths[-1]:.1f} s"
        lines.insert(0, f"{count} silence{'s' if count > 1 else ''} of {span}.")
    else:
        lines.insert(0, "No silence: the click sounds throughout.")
    lines.append(f"{len(plan.notes)} notes to play, from the first cycle through the close.")
    return lines


def minutes(seconds: float) -> str:
    """Return a length such as ``45 s`` or ``2 min 5 s``."""
    whole = round(seconds)
    return f"{whole} s" if whole < 60 else f"{whole // 60} min {whole % 60} s"


def joined(words: list[str]) -> str:
    """Return words as ``a``, ``a and b`` or ``a, b and c``."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _length_s(plan: Schedule, index: int) -> float:
    silence = plan.silences[index]
    return float(plan.seconds(silence.end_tick - silence.start_tick))
