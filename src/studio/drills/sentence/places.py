"""Places of the cycle as words: where the click may sound, lists of places, turns of a part."""

from __future__ import annotations

import re
from typing import Any

from giusto.drill import Drill
from giusto.drill.file import Segment
from studio.vocabulary import value_name

FIGURE = "figure-"  # and its number: a figure of the beat, on each beat
MOST_DIGITS = 9  # of a whole number in a text; Python itself refuses thousands
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
    "nowhere": "no beat at all",
}


def click_words() -> dict[str, str]:
    """Return these words with the player's names for note values."""
    last = {f"last-{value}": f"the last {value_name(value)}" for value in ("eighth", "sixteenth")}
    return CLICK_WORDS | last


def click_places(word: str, beats: int) -> list[str]:
    """Return the positions that a word of the sentence stands for."""
    counted = [str(beat + 1) for beat in range(beats)]
    found = {
        "every": counted,
        "two-four": ["2", "4"],
        "offbeats": [f"{beat}+1/2" for beat in counted],
        "one": ["1"],
        "three": ["3"],
        "four": ["4"],
        "last-eighth": [f"{beats}+1/2"],
        "last-sixteenth": [f"{beats}+3/4"],
        "nowhere": [],
    }
    return found[word]


def click_word(drill: Drill) -> str:
    """Return the word that stands for the drill's positions, ``marked`` where none does."""
    for word in CLICK_WORDS:
        if word != "marked" and click_places(word, drill.cycle.beats) == list(drill.clicks.on):
            return word
    return "marked"


def places(text: str) -> list[str]:
    """Return the places of a text such as ``1, 2+1/2``."""
    return [place for place in re.split(r"[,;\s]+", text.strip()) if place]


def turns(text: str) -> list[dict[str, Any]]:
    """Return the turns of a text such as ``4: 1; 4: 1, 3``, for the core to check."""
    found = [turn.partition(":") for turn in text.split(";") if turn.strip()]
    return [{"cycles": whole(cycles), "at": places(at)} for cycles, _, at in found]


def written_turns(drill: Drill) -> str:
    """Return the turns of a drill's part as such a text; nothing where it has none."""
    play = drill.part.play
    segments = [] if isinstance(play, str) else [piece for piece in play if isinstance(piece, Segment)]
    return "; ".join(f"{segment.cycles}: {', '.join(segment.at)}" for segment in segments)


def whole(text: str) -> int | str:
    """Return a whole number, or the text itself for the core to refuse."""
    plain = text.strip()
    return int(plain) if plain.isdecimal() and len(plain) <= MOST_DIGITS else plain[:MOST_DIGITS]
