"""The schools in words: how each is called, its rule as a sentence whose words can be changed, and in short.

One row a school; what it does is its module in ``giusto.practice.ladder.rules``.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from django import forms

from giusto.practice.ladder import RULES
from studio.drills.sentence.fields import number
from studio.words import number as in_words


@dataclass(frozen=True, slots=True)
class SchoolWord:
    """A word of a rule's sentence.

    Attributes
    ----------
    path : str
        The field of the rule that it says.
    field : callable
        Makes its form field.
    is_share : bool
        Whether it is of one in the file, and of a hundred in the sentence.
    """

    path: str
    field: Callable[[], forms.Field]
    is_share: bool = False


@dataclass(frozen=True, slots=True)
class School:
    """A school.

    Attributes
    ----------
    name : str
        In the choice of schools.
    sentence : str
        Its rule, with its words in braces; ``{nights:s}`` is the plural's s of a word.
    usual : dict
        Its words, and what they are where the ladder had another school.
    short : callable
        Its rule in a few words.
    falls, begins_below : bool
        Whether falling, and beginning a day below, are words of the sentence.
    """

    name: str
    sentence: str
    usual: dict[str, Any]
    short: Callable[[Any], str]
    falls: bool = True
    begins_below: bool = field(default=True)


WORDS: dict[str, SchoolWord] = {
    "clean_takes": SchoolWord("clean", lambda: number("Clean takes", most=100)),
    "minutes": SchoolWord("minutes", lambda: number("Clean minutes", least=0.1, most=10_000, whole=False)),
    "nights": SchoolWord("nights", lambda: number("Nights", most=100)),
    "by": SchoolWord("by", lambda: number("At most so much a week", least=0.1, most=2000, whole=False)),
    "low": SchoolWord("low", lambda: number("Of a hundred takes clean, at least", most=99), is_share=True),
    "high": SchoolWord("high", lambda: number("Of a hundred takes clean, at most", most=99), is_share=True),
}
SCHOOLS: dict[str, School] = {
    "streak": School(
        "clean takes in a row",
        "Up after {clean_takes} clean in a row.",
        {"clean_takes": 3},
        lambda rule: (
            "up after each clean take" if rule.clean == 1 else f"up after {in_words(rule.clean)} clean in a row"
        ),
    ),
    "total": School(
        "clean takes in all",
        "Up after {clean_takes} clean in all, in a row or not.",
        {"clean_takes": 5},
        lambda rule: f"up after {in_words(rule.clean)} clean in all, in a row or not",
    ),
    "stay": School(
        "clean minutes",
        "Up the next day, after {minutes} clean minutes.",
        {"minutes": 30.0},
        lambda rule: f"up the next day, after {rule.minutes:g} clean minutes",
    ),
    "edge": School(
        "the edge, and a night",
        "Up after {clean_takes} clean in a row; one that is not is the edge: one down, and no higher for {nights}"
        " night{nights:s}.",
        {"clean_takes": 4, "nights": 1},
        lambda rule: f"to the edge by {in_words(rule.clean)} clean, then sleep on it",
        falls=False,
    ),
    "week": School(
        "so much a week",
        "Up after {clean_takes} clean in a row, by {by} a week at most.",
        {"clean_takes": 3, "by": 5.0},
        lambda rule: f"up after {in_words(rule.clean)} clean, at most {rule.by:g} a week",
    ),
    "band": School(
        "mostly right",
        "Between {low} and {high} takes of a hundred clean.",
        {"low": 70, "high": 85},
        lambda rule: f"kept where {100 * rule.low:.0f} to {100 * rule.high:.0f} of 100 takes are clean",
        falls=False,
        begins_below=False,
    ),
}


def words_of_rule(rule: Any) -> dict[str, Any]:
    """Return the words of a rule, and of the schools that it is not, the usual ones."""
    words: dict[str, Any] = {}
    for school in SCHOOLS.values():
        words |= school.usual
    own = {name: getattr(rule, WORDS[name].path) for name in SCHOOLS[rule.kind].usual}
    return words | {name: round(100 * value) if WORDS[name].is_share else value for name, value in own.items()}


def plain_rule(kind: str, words: dict[str, Any]) -> dict[str, Any]:
    """Return the rule that (checked) words say, as its file has it."""
    own = {WORDS[name].path: words[name] / 100 if WORDS[name].is_share else words[name] for name in SCHOOLS[kind].usual}
    return {"kind": kind} | own


def falls_of(kind: str) -> dict[str, str]:
    """Return the words of falls and new days that a school brings with it."""
    fall, back = RULES[kind].usual_fall, RULES[kind].usual_back
    return {"falls": str(fall.after) if fall else "", "fall_by": str(fall.by) if fall else "1", "back": str(back)}
