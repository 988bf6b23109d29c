"""English for all pages: numbers as words, lists, lengths of time."""

from __future__ import annotations

from django.utils.text import get_text_list

NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
ORDINALS = ("", "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth")
TIMES = {1: "once", 2: "twice"}
SUFFIXES = {1: "st", 2: "nd", 3: "rd"}


def joined(words: list[str]) -> str:
    """Return words as ``a``, ``a and b`` or ``a, b and c``."""
    return str(get_text_list(words, "and"))


def number(value: int) -> str:
    """Return a number as a word up to twelve.

    Examples
    --------
    >>> number(0), number(7), number(13)
    ('no', 'seven', '13')
    """
    return NUMBERS[value] if value < len(NUMBERS) else str(value)


def ordinal(value: int) -> str:
    """Return ``first`` to ``eighth``, then ``9th``, ``21st`` and so on.

    Examples
    --------
    >>> ordinal(2), ordinal(9), ordinal(11), ordinal(22)
    ('second', '9th', '11th', '22nd')
    """
    if value < len(ORDINALS):
        return ORDINALS[value]
    suffix = "th" if value % 100 in (11, 12, 13) else SUFFIXES.get(value % 10, "th")
    return f"{value}{suffix}"


def times(value: int) -> str:
    """Return how often: once, twice, three times."""
    return TIMES.get(value, f"{number(value)} times")


def takes_words(count: int) -> str:
    """Return ``one take``, ``two takes``."""
    return f"{number(count)} take{'' if count == 1 else 's'}"


def minutes(seconds: float) -> str:
    """Return a length such as ``45 s`` or ``2 min 5 s``."""
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    return f"{whole // 60} min {whole % 60} s" if whole % 60 else f"{whole // 60} min"
