"""Which part of a split exercise comes next: its keys in turn, its sections, its hands with the harder first."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True, slots=True)
class ExercisePart:
    """One part of an exercise, and where it stands.

    Attributes
    ----------
    hand : str
        ``left``, ``right``, ``together``, or ``""`` where it is not split by hands.
    key, section : str
        ``""`` where it is not split by them.
    rung, secure : int
        What its own ladder asks for now, and the highest rung passed, 0 if none.
    is_done : bool
        Whether its ladder is climbed.
    played : date or None
        When it was played last.
    """

    hand: str
    key: str
    section: str
    rung: int
    secure: int
    is_done: bool = False
    played: date | None = None


def next_part(parts: Sequence[ExercisePart]) -> int | None:
    """Return the index of the part that comes next; None where all are climbed.

    Parameters
    ----------
    parts : sequence of ExercisePart
        In the order in which they were chosen.

    Notes
    -----
    Common practice. The key that was not played for longest, so that each comes once before any comes twice; within
    it the section that stands lowest; within that the harder hand, which is the one that stands lower, and both
    together only while each alone is secure above what they hold together. Of two hands alike, the one that rested
    longer.

    Examples
    --------
    >>> left, right = ExercisePart("left", "", "", 3, 2), ExercisePart("right", "", "", 2, 1)
    >>> next_part([left, right, ExercisePart("together", "", "", 1, 0)])
    2
    >>> next_part([left, right, ExercisePart("together", "", "", 2, 1)])
    1
    """
    left = [index for index, part in enumerate(parts) if not part.is_done]
    if not left:
        return None
    key = min({parts[index].key: None for index in left}, key=lambda key: _last(parts, key))
    left = [index for index in left if parts[index].key == key]
    section = min(
        {parts[index].section: None for index in left},
        key=lambda section: min(parts[index].secure for index in left if parts[index].section == section),
    )
    left = [index for index in left if parts[index].section == section]
    return _hand(parts, left, key, section)


def _last(parts: Sequence[ExercisePart], key: str) -> date:
    """Return when a key was played last; one never played comes before all others."""
    return max((part.played or date.min for part in parts if part.key == key), default=date.min)


def _hand(parts: Sequence[ExercisePart], left: list[int], key: str, section: str) -> int:
    apart = [part for part in parts if (part.key, part.section) == (key, section) and part.hand in ("left", "right")]
    lowest = min((part.secure for part in apart), default=None)
    together = next((index for index in left if parts[index].hand == "together"), None)
    if together is not None and (lowest is None or lowest > parts[together].secure):
        return together
    alone = [index for index in left if index != together]
    return min(alone, key=lambda index: (parts[index].secure, parts[index].played or date.min)) if alone else left[0]


def spelled(key: str, among: Iterable[str]) -> str:
    """Return a key as it stands among some: as it is, else in capitals of another kind, else as it is written here.

    Examples
    --------
    >>> spelled("bb", ["C", "Bb"]), spelled("a", ["A", "a"]), spelled("H", ["C", "Bb"])
    ('Bb', 'a', 'H')
    """
    some = list(among)
    return key if key in some else next((one for one in some if one.casefold() == key.casefold()), key)
