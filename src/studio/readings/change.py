"""A figure before and after, in words, and whether the change is more than chance."""

from __future__ import annotations

from dataclasses import dataclass

from studio.sheet.words import NBSP

MOST_DIGITS = 4


@dataclass(frozen=True, slots=True)
class Change:
    """One figure before and after: of two takes, or where the line through many begins and ends."""

    name: str
    before: str
    after: str
    change: str
    is_sure: bool


def leaned(change: float, low: float, high: float) -> str:
    r"""Return a change of a lean, in per cent of the tempo: ``0.8 % faster, 0.4 to 1.2``.

    Examples
    --------
    >>> leaned(0.8, 0.4, 1.2), leaned(-0.3, -0.9, 0.3), leaned(-0.6, -1.2, -0.02)
    ('0.8\xa0% faster, 0.4 to 1.2', '0.3\xa0% slower, 0.9 slower to 0.3 faster', '0.6\xa0% slower, 0.02 to 1.2')
    """
    return f"{abs(change):.1f}{NBSP}% {_way(change)}, {_ends(low, high, digits=1)}"


def shifted(change: float, low: float, high: float, *, later: str, earlier: str, unit: str = "") -> str:
    r"""Return a change of a figure that has two sides, by their words: ``20 ms later, 12 to 28``.

    Examples
    --------
    >>> shifted(20.2, 12, 28, later="later", earlier="earlier", unit="\xa0ms")
    '20\xa0ms later, 12 to 28'
    >>> shifted(-3, -9, 3, later="later", earlier="earlier", unit="\xa0ms")
    '3\xa0ms earlier, 9 earlier to 3 later'
    """
    words = (later, earlier)
    return f"{abs(change):.0f}{unit} {words[change < 0]}, {_ends(low, high, words=words)}"


def _way(change: float) -> str:
    return "faster" if change > 0 else "slower"


def _ends(low: float, high: float, *, digits: int = 0, words: tuple[str, str] = ("faster", "slower")) -> str:
    """Return a range: by size alone where both ends are on one side, else each with its word."""
    if low * high > 0:
        near, far = sorted((abs(low), abs(high)))
        return f"{_end(near, digits)} to {far:.{digits}f}"
    return f"{abs(low):.{digits}f} {words[1]} to {abs(high):.{digits}f} {words[0]}"


def _end(value: float, digits: int, *, none: float = 0.0) -> str:
    """Return an end of a range that leaves out no change: with digits more where it would be written as none."""
    while value != none and float(f"{value:.{digits}f}") == none and digits < MOST_DIGITS:
        digits += 1
    return f"{value:.{digits}f}"


def times(change: float, low: float, high: float) -> str:
    """Return a change of a size in words: ``0.73 times, 0.60 to 0.89``.

    Examples
    --------
    >>> times(0.73, 0.6, 0.89), times(0.8, 0.64, 0.9973), times(0.9, 0.8, 1.0)
    ('0.73 times, 0.60 to 0.89', '0.80 times, 0.64 to 0.997', '0.90 times, 0.80 to 1.00')
    """
    return f"{change:.2f} times, {_end(low, 2, none=1.0)} to {_end(high, 2, none=1.0)}"
