"""Note values in words: ``eighths``, ``dotted quarter``, ``triplets``."""

from __future__ import annotations

from fractions import Fraction

from studio.vocabulary import value_name

PLAIN = {
    Fraction(1, 1): "whole",
    Fraction(1, 2): "half",
    Fraction(1, 4): "quarter",
    Fraction(1, 8): "eighth",
    Fraction(1, 16): "sixteenth",
    Fraction(1, 32): "thirty-second",
    Fraction(1, 64): "sixty-fourth",
}
TUPLETS = {
    2: "duplets",
    3: "triplets",
    4: "quadruplets",
    5: "quintuplets",
    6: "sextuplets",
    7: "septuplets",
    8: "octuplets",
}
# The beats that the sentence offers; a drill may bring another.
BEATS = ("1/1", "3/4", "1/2", "3/8", "1/4", "3/16", "1/8", "1/16")


def value_word(value: Fraction) -> str | None:
    """Return the name of a plain or dotted note value, None where it is neither."""
    if value in PLAIN:
        return value_name(PLAIN[value])
    dotted = PLAIN.get(value * Fraction(2, 3))
    return f"dotted {value_name(dotted)}" if dotted else None


def beat_word(beat: str) -> str:
    """Return a beat's note value as it starts a sentence.

    Examples
    --------
    >>> beat_word("1/4"), beat_word("3/8"), beat_word("5/8")
    ('Quarter', 'Dotted quarter', '5/8 note')
    """
    word = value_word(Fraction(beat))
    return word.capitalize() if word else f"{beat} note"


def note_word(beat: str, grid: int) -> str:
    """Return what the player plays, ``grid`` of them to a beat.

    Examples
    --------
    >>> note_word("1/4", 2), note_word("1/2", 4), note_word("3/8", 3), note_word("1/4", 3)
    ('eighths', 'eighths', 'eighths', 'triplets')
    """
    word = value_word(Fraction(beat) / grid)
    if word is None:
        return TUPLETS.get(grid, f"{beat} notes")
    return f"{word[:-1]}ves" if word.endswith("half") else f"{word}s"
