"""Places in the cycle, written ``"1"``, ``"2+1/2"``, ``"4+3/4"``."""

from __future__ import annotations

import re
from fractions import Fraction
from functools import lru_cache

PATTERN = r"^[1-9][0-9]?(\+[1-9][0-9]{0,3}/[1-9][0-9]{0,3})?$"
RULE = 'a place such as "1", "2+1/2" or "4+3/4": a beat from 1, then a part of a beat below 1'


@lru_cache(maxsize=1024)
def parse(text: str) -> Fraction:
    """Return the place as beats from the start of the cycle.

    Parameters
    ----------
    text : str
        A beat counted from 1, and, after ``+``, an exact part of a beat between 0 and 1.

    Returns
    -------
    Fraction
        0 for the first beat.

    Raises
    ------
    ValueError
        Where the text is not such a place.

    Examples
    --------
    >>> parse("2+1/2")
    Fraction(3, 2)
    """
    if not re.fullmatch(PATTERN, text):
        raise ValueError(f"expected {RULE}")
    beat, _, part = text.partition("+")
    fraction = Fraction(part) if part else Fraction(0)
    if fraction >= 1:
        raise ValueError(f"expected {RULE}")
    return int(beat) - 1 + fraction


def write(beats: Fraction) -> str:
    """Return the place that lies ``beats`` after the start of the cycle.

    Examples
    --------
    >>> write(Fraction(15, 4))
    '4+3/4'
    """
    beat, part = divmod(beats, 1)
    return f"{beat + 1}+{part}" if part else f"{beat + 1}"
