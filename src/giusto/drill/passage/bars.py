"""What of a score a passage needs: parts, and their bars in the order in which they are played."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from giusto.errors import GiustoError

UNNUMBERED = -1
TOGETHER = " + "  # between the names of parts that are one
RANGE = re.compile(r"([0-9]{1,6})(?:-([0-9]{1,6}))?")


@dataclass(frozen=True, slots=True)
class Bar:
    """A bar as it is played.

    Attributes
    ----------
    number : str
        As it is printed; ``"0"`` for a pick-up, as a rule.
    beat : Fraction
        The note value of a beat, of a whole note: 1/4, or 3/8 where beats are dotted quarters.
    beats : Fraction
        How many it has; a pick-up has as many as are there.
    full : int
        How many its metre asks for.
    onsets : tuple of Fraction
        In beats from its start, ascending, each once: chords are one, a tie is one with its note.
    grace : int
        Grace notes, which are left out.
    """

    number: str
    beat: Fraction
    beats: Fraction
    full: int
    onsets: tuple[Fraction, ...]
    grace: int = 0

    def plain(self) -> dict[str, Any]:
        """Return the bar in plain values, for keeping."""
        exact = {"beat": str(self.beat), "beats": str(self.beats), "onsets": [str(onset) for onset in self.onsets]}
        return {"number": self.number, "full": self.full, "grace": self.grace, **exact}


def bar_from(plain: Mapping[str, Any]) -> Bar:
    """Return a bar from what ``Bar.plain`` gave.

    Raises
    ------
    GiustoError
        ``bars``, where it is none.
    """
    try:
        onsets = tuple(Fraction(onset) for onset in plain["onsets"])
        full, grace = int(plain["full"]), int(plain["grace"])
        return Bar(str(plain["number"]), Fraction(plain["beat"]), Fraction(plain["beats"]), full, onsets, grace)
    except (KeyError, TypeError, ValueError, ZeroDivisionError):
        raise GiustoError("a bar is not as Giusto keeps it", code="bars") from None


@dataclass(frozen=True, slots=True)
class ScorePart:
    """A part: its name, and the bars of each hand; ``""`` is both."""

    name: str
    hands: dict[str, tuple[Bar, ...]]


@dataclass(frozen=True, slots=True)
class Score:
    """A score: its title, its tempo in quarters a minute where it has one, and its parts."""

    title: str
    quarters_a_minute: float | None
    parts: tuple[ScorePart, ...]

    def part(self, asked: str | None) -> ScorePart:
        """Return a part by its name or number from 1; the only one where none is asked for.

        Parts that one player has, such as hat and kick, are one together: ``1+2``, or ``Hat + Kick``.

        Raises
        ------
        GiustoError
            ``part``, where there is no such part, or several and none is asked for; where parts that shall be one have
            other bars.
        """
        if asked is None and len(self.parts) == 1:
            return self.parts[0]
        whole = self._called(asked)
        if len(whole) == 1:
            return whole[0]
        each = [self._called(one.strip()) for one in (asked or "").split("+")]
        if len(each) < 2 or any(len(found) != 1 for found in each):
            names = ", ".join(f'{n} "{part.name}"' for n, part in enumerate(self.parts, start=1))
            what = "is not given" if asked is None else f'is "{asked[:40]}"'
            raise GiustoError(
                f"the part {what}, allowed is one of {names}, or some of them with + between", code="part"
            )
        return together([found[0] for found in each])

    def _called(self, asked: str | None) -> list[ScorePart]:
        return [part for number, part in enumerate(self.parts, start=1) if asked in (str(number), part.name)]


def together(parts: Sequence[ScorePart]) -> ScorePart:
    """Return several parts as one: what begins in any of them begins in it.

    Raises
    ------
    GiustoError
        ``part``, where their bars differ.
    """
    name = TOGETHER.join(part.name for part in parts)
    if len({tuple((bar.number, bar.beat, bar.beats) for bar in part.hands[""]) for part in parts}) > 1:
        raise GiustoError(f'the parts "{name[:80]}" have other bars, allowed are parts with the same', code="part")
    bars = tuple(
        replace(
            some[0], onsets=tuple(sorted({at for bar in some for at in bar.onsets})), grace=sum(b.grace for b in some)
        )
        for some in zip(*(part.hands[""] for part in parts), strict=True)
    )
    return ScorePart(name, {"": bars})


def counted(beats: int, beat_type: int) -> tuple[Fraction, int]:
    """Return the note value of a beat of a metre and how many a bar has: compound metres count in dotted values.

    Examples
    --------
    >>> counted(4, 4), counted(6, 8), counted(3, 8)
    ((Fraction(1, 4), 4), (Fraction(3, 8), 2), (Fraction(1, 8), 3))
    """
    if beats % 3 == 0 and beats > 3 and beat_type >= 8:
        return Fraction(3, beat_type), beats // 3
    return Fraction(1, beat_type), beats


def chosen_bars(bars: Sequence[Bar], asked: str | None) -> list[Bar]:
    """Return the bars of a passage in the order in which they are played.

    Parameters
    ----------
    bars : sequence of Bar
        Repeats written out.
    asked : str or None
        ``5-8`` or ``5``, by printed numbers; all where None is given.

    Returns
    -------
    list of Bar
        From the first time that the first bar comes until the music leaves the range: a repeat inside it is
        played, one around it is not.

    Raises
    ------
    GiustoError
        ``bars``, where the range is none, or there is no such bar.
    """
    if asked is None:
        return list(bars)
    match = RANGE.fullmatch(asked.strip())
    numbers = [int(bar.number) if bar.number.isdecimal() else UNNUMBERED for bar in bars]
    known = [number for number in numbers if number != UNNUMBERED]
    allowed = f"{min(known)} to {max(known)}" if known else "none: no bar has a number"
    first, last = (int(match[1]), int(match[2] or match[1])) if match else (1, 0)
    if not match or last < first:
        raise GiustoError(f'bars are "{asked[:40]}", allowed is such as 5-8 or 5', code="bars")
    for number in (first, last):
        if number not in known:
            raise GiustoError(f"bar {number} is not there, allowed are {allowed}", code="bars")
    begin = numbers.index(first)
    end = begin
    while end < len(bars) and first <= numbers[end] <= last:
        end += 1
    return list(bars[begin:end])
