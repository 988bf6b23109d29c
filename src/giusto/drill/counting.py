"""The fifteen ways to fill the four sixteenths of a beat, and how a beat is counted aloud."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from giusto.drill import Drill, position
from giusto.drill.file import Segment

SIXTEENTHS = 4
# How the parts of a beat are spoken after its number, by school; numbers stand for what has no syllables.
# Common practice: "1 e and a", and "1 2 3 4, 2 2 3 4". From memory: ka di mi, and ki da, after takadimi.
SYLLABLES: dict[str, dict[int, tuple[str, ...]]] = {
    "syllables": {1: (), 2: ("and",), 3: ("trip", "let"), 4: ("e", "and", "a")},
    "takadimi": {1: (), 2: ("di",), 3: ("ki", "da"), 4: ("ka", "di", "mi")},
    "numbers": {},
}


@dataclass(frozen=True, slots=True)
class Count:
    """One slot of the cycle as it is counted.

    Attributes
    ----------
    text : str
        A beat's number, or the syllable of a part of it.
    is_played : bool
        Whether the part asks for a note there.
    is_beat : bool
    """

    text: str
    is_played: bool
    is_beat: bool


def beat_figures() -> tuple[tuple[int, ...], ...]:
    """Return the fifteen figures, each as the sixteenths of a beat that are played, 0 to 3.

    Those with one note come first, then two, three, four; within these from early to late.

    Examples
    --------
    >>> len(beat_figures()), beat_figures()[0], beat_figures()[4], beat_figures()[-1]
    (15, (0,), (0, 1), (0, 1, 2, 3))
    """
    slots = range(SIXTEENTHS)
    found = [tuple(s for s in slots if mask >> s & 1) for mask in range(1, 2**SIXTEENTHS)]
    return tuple(sorted(found, key=lambda figure: (len(figure), figure)))


def beat_figure_places(figure: tuple[int, ...], *, beats: int) -> list[str]:
    """Return the places of a figure played on each beat of a cycle.

    Examples
    --------
    >>> beat_figure_places((0, 3), beats=2)
    ['1', '1+3/4', '2', '2+3/4']
    """
    return [position.write(beat + Fraction(slot, SIXTEENTHS)) for beat in range(beats) for slot in figure]


def syllables(grid: int, *, school: str = "syllables") -> tuple[str, ...]:
    """Return what is said after the beat's number: syllables up to sixteenths, then plain numbers.

    Examples
    --------
    >>> syllables(4), syllables(5), syllables(3, school="takadimi")
    (('e', 'and', 'a'), ('2', '3', '4', '5'), ('ki', 'da'))

    References
    ----------
    Common practice.
    """
    return SYLLABLES[school].get(grid) or tuple(str(slot + 1) for slot in range(1, grid))


def counts(drill: Drill, *, segment: int = 0, school: str = "syllables") -> tuple[Count, ...]:
    """Return the cycle slot by slot, as it is counted aloud.

    Parameters
    ----------
    drill : Drill
    segment : int
        Which segment of ``part.play``, where it has segments.
    school : str
        How the parts of a beat are counted: ``syllables``, ``takadimi`` or ``numbers``.

    Returns
    -------
    tuple of Count
        ``cycle.beats × part.grid`` of them.
    """
    play, grid = drill.part.play, drill.part.grid
    played = {position.parse(text) for text in _places(drill, segment)}
    found = []
    for beat in range(drill.cycle.beats):
        for slot, text in enumerate((str(beat + 1), *syllables(grid, school=school))):
            is_played = play == "grid" or beat + Fraction(slot, grid) in played
            found.append(Count(text, is_played, slot == 0))
    return tuple(found)


def _places(drill: Drill, segment: int) -> list[str]:
    """Return the places that the part names; none where it is a word."""
    if isinstance(drill.part.play, str):
        return []
    named = [piece for piece in drill.part.play if isinstance(piece, Segment)]
    return list(named[segment].at) if named else [str(piece) for piece in drill.part.play]
