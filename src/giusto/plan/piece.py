"""A piece: its bars in chunks, the joins between them, larger stretches, the whole; and what comes next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import pairwise
from typing import Literal

from giusto.errors import GiustoError

MOST_BARS = 2000  # ours: an act of an opera
READY = 0.8  # ours: of the goal; where a chunk stands before it is joined to its neighbour
SLOWER = 0.7  # ours, for "a good bit slower" than the tempo that was found (common practice)
LOWER_STEPS = 2  # ours: how far below its parts a larger stretch is started again
CHECK_DAYS = 7  # ours: a spot check a week

Kind = Literal["chunk", "join", "larger", "whole", "spot"]
Way = Literal["learn", "climb", "check", "work"]
ORDER: tuple[str, ...] = ("spot", "chunk", "join", "larger", "whole")


@dataclass(frozen=True, slots=True)
class Stretch:
    """Bars that are practised as one: from the first to the last, both included."""

    first: int
    last: int
    kind: Kind


@dataclass(frozen=True, slots=True)
class StretchState:
    """Where a stretch stands.

    Attributes
    ----------
    stretch : Stretch
    is_learned : bool
        By its player's word: the notes are in the hands.
    secure_bpm : float or None
        The highest tempo that was passed.
    is_done : bool
        Whether it is secure at the goal.
    played : date or None
        When it was played last with the click.
    is_under_way : bool
        Whether it was begun today, and nothing new of it is secure yet.
    """

    stretch: Stretch
    is_learned: bool = False
    secure_bpm: float | None = None
    is_done: bool = False
    played: date | None = None
    is_under_way: bool = False


@dataclass(frozen=True, slots=True)
class Asked:
    """What comes next in a piece: which stretch, by its index, and how.

    Attributes
    ----------
    way : str
        ``learn`` (without a click, until its player calls it learned), ``climb`` (the next rung of its ladder),
        ``check`` (one take with the click), ``work`` (on without a click).
    """

    index: int
    way: Way


def stretches(begins: Sequence[int], last: int) -> list[Stretch]:
    """Return the stretches of a piece in the order in which they are begun.

    Parameters
    ----------
    begins : sequence of int
        The first bar of each chunk, ascending.
    last : int
        The last bar.

    Raises
    ------
    GiustoError
        ``bars``, where they do not ascend or are too many.

    Examples
    --------
    >>> [f"{s.kind} {s.first}-{s.last}" for s in stretches([1, 3, 5], 6)]
    ['chunk 1-2', 'chunk 3-4', 'chunk 5-6', 'join 2-3', 'join 4-5', 'larger 1-4', 'whole 1-6']
    """
    firsts = [*begins, last + 1]
    if len(firsts) < 2 or any(b <= a for a, b in pairwise(firsts)):
        raise GiustoError("the chunks begin in bars that do not ascend, allowed are such as 1, 3, 5", code="bars")
    if last - firsts[0] >= MOST_BARS:
        raise GiustoError(f"the piece has {last - firsts[0] + 1} bars, allowed are {MOST_BARS}", code="bars")
    count = len(begins)
    found = [Stretch(a, b - 1, "chunk" if count > 1 else "whole") for a, b in pairwise(firsts)]
    found += [Stretch(first - 1, first, "join") for first in firsts[1:-1]]
    size = 2
    while size < count:
        edges = [*range(0, count, size), count]
        some = [(a, b) for a, b in pairwise(edges) if b - a > size // 2]
        found += [Stretch(firsts[a], firsts[b] - 1, "larger") for a, b in some]
        size *= 2
    return [*found, Stretch(firsts[0], last, "whole")] if count > 1 else found


def even_begins(first: int, last: int, size: int) -> list[int]:
    """Return the first bars of chunks of one size; a single bar left over joins the chunk before it.

    Examples
    --------
    >>> even_begins(1, 7, 2)
    [1, 3, 5]
    """
    found = list(range(first, last + 1, size))
    return found[:-1] if len(found) > 1 and found[-1] == last and size > 1 else found


def next_of(standings: Sequence[StretchState], *, school: str, goal_bpm: float, today: date) -> Asked | None:
    """Return what comes next in a piece; None where every stretch is at its goal.

    Parameters
    ----------
    standings : sequence of StretchState
    school : str
        ``after``: no click until the notes are known, then with it; ``checks``: the click only for spot checks, one
        a week; ``throughout``: the click from the beginning.
    goal_bpm : float
    today : date

    Notes
    -----
    Common practice: notes first, then chunks, joins, larger stretches, the whole. A stretch is open when all inside
    it stand at 80 % of the goal. Of those that are open: the one that is under way today, then one that was not played
    today, then the one that stands lowest, then the earlier one.
    """
    if school != "throughout" and (index := _unlearned(standings)) is not None:
        return Asked(index, "learn")
    open_ = [index for index, one in enumerate(standings) if not one.is_done and is_open(standings, index, goal_bpm)]
    if school == "checks":
        return _checked(standings, today)
    if not open_:
        return None
    return Asked(min(open_, key=lambda index: _turn(standings[index], index, today)), "climb")


def is_open(standings: Sequence[StretchState], index: int, goal_bpm: float) -> bool:
    """Return whether a stretch's turn has come: all inside it stand at 80 % of the goal."""
    stretch = standings[index].stretch
    return all((one.secure_bpm or 0.0) >= READY * goal_bpm for one in standings if _lies_in(one.stretch, stretch))


def start_bpm(standings: Sequence[StretchState], stretch: Stretch, *, found_bpm: float, step_bpm: float) -> float:
    """Return where the ladder of a stretch begins.

    A good bit below the tempo that was found; a larger one a little below the lowest of its parts, started again.
    """
    least = round(SLOWER * found_bpm)
    inside = [one.secure_bpm for one in standings if _lies_in(one.stretch, stretch) and one.secure_bpm]
    return max(least, min(inside) - LOWER_STEPS * step_bpm) if inside else least


def _unlearned(standings: Sequence[StretchState]) -> int | None:
    some = (
        index for index, one in enumerate(standings) if one.stretch.kind in ("chunk", "spot") or len(standings) == 1
    )
    return next((index for index in some if not standings[index].is_learned), None)


def _checked(standings: Sequence[StretchState], today: date) -> Asked | None:
    """Return the stretch whose spot check is due, else the one to work on without the click."""
    left = [index for index, one in enumerate(standings) if not one.is_done]
    if not left:
        return None
    due = [index for index in left if (standings[index].played or date.min) <= today - timedelta(days=CHECK_DAYS)]
    chosen = min(due or left, key=lambda index: (standings[index].played or date.min, index))
    return Asked(chosen, "check" if due else "work")


def _lies_in(inner: Stretch, outer: Stretch) -> bool:
    """Whether a stretch belongs to a larger one; a join takes the chunks on both of its sides."""
    if inner == outer or inner.kind == "spot" or outer.kind in ("spot", "chunk"):
        return False
    if outer.kind == "join":
        return inner.kind == "chunk" and outer.first <= inner.last and inner.first <= outer.last
    is_smaller = (
        ORDER.index(inner.kind) < ORDER.index(outer.kind) or inner.last - inner.first < outer.last - outer.first
    )
    return is_smaller and outer.first <= inner.first and inner.last <= outer.last


def _turn(one: StretchState, index: int, today: date) -> tuple[bool, bool, float, int]:
    return not one.is_under_way, one.played == today, one.secure_bpm or 0.0, index
