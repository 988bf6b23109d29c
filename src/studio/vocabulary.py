"""The words for note values and for the parts of a beat, as the player of this request uses them.

Like Django's languages and time zones they are activated for a request, so that what words a drill needs no
player handed down to it.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from django.db.models import TextChoices

from giusto.drill import Drill
from giusto.drill.counting import SIXTEENTHS, Count, counts, syllables


class NoteNames(TextChoices):
    """The two families of names in English; common practice."""

    AMERICAN = "american", "whole, half, quarter, eighth, sixteenth"
    BRITISH = "british", "semibreve, minim, crotchet, quaver, semiquaver"


class Countings(TextChoices):
    """How the parts of a beat are counted (``giusto.drill.counting``)."""

    SYLLABLES = "syllables", "1 e and a, 2 e and a"
    TAKADIMI = "takadimi", "1 ka di mi, 2 ka di mi"
    NUMBERS = "numbers", "1 2 3 4, 2 2 3 4"


BRITISH = {
    "whole": "semibreve",
    "half": "minim",
    "quarter": "crotchet",
    "eighth": "quaver",
    "sixteenth": "semiquaver",
    "thirty-second": "demisemiquaver",
    "sixty-fourth": "hemidemisemiquaver",
}


@dataclass(frozen=True, slots=True)
class Vocabulary:
    """Which words are used."""

    note_names: str = NoteNames.AMERICAN
    counts: str = Countings.SYLLABLES


PLAIN = Vocabulary()
_current: ContextVar[Vocabulary] = ContextVar("vocabulary", default=PLAIN)


@contextmanager
def using(vocabulary: Vocabulary) -> Iterator[None]:
    """Use these words for a while."""
    token = _current.set(vocabulary)
    try:
        yield
    finally:
        _current.reset(token)


def value_name(american: str) -> str:
    """Return a note value's name as the player calls it.

    Examples
    --------
    >>> with using(Vocabulary(NoteNames.BRITISH)):
    ...     value_name("eighth")
    'quaver'
    """
    return BRITISH[american] if _current.get().note_names == NoteNames.BRITISH else american


def school() -> str:
    """Return how the player counts the parts of a beat (``giusto.drill.counting``)."""
    return _current.get().counts


def spoken_parts(grid: int) -> tuple[str, ...]:
    """Return what the player says after a beat's number."""
    return syllables(grid, school=_current.get().counts)


def spoken_place(place: str) -> str:
    """Return a place of the cycle as it is counted: ``2 and`` for ``2+1/2``, itself where no syllable stands for it.

    Examples
    --------
    >>> spoken_place("2+1/2"), spoken_place("3+3/4"), spoken_place("4"), spoken_place("1+2/7")
    ('2 and', '3 a', '4', '1+2/7')
    """
    beat, _, part = place.partition("+")
    if not part:
        return place
    slot, parts = (int(number) for number in part.split("/"))
    said = spoken_parts(parts)[slot - 1] if parts <= SIXTEENTHS else part
    return f"{beat} {said}" if not said[0].isdigit() else place


def spoken_counts(drill: Drill, *, segment: int = 0) -> tuple[Count, ...]:
    """Return the cycle slot by slot, as the player counts it aloud."""
    return counts(drill, segment=segment, school=_current.get().counts)
