"""The page of the routine: a sentence a block, one thing of it opened at a time, nothing kept until it is said."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django import forms
from django.http import QueryDict

from studio.plans.forms import DAYS, WholeRoutine
from studio.words import joined, number

OPEN = re.compile(r"when|finer|(block|exercise)-([0-9]{1,3})")
MOVE = re.compile(r"(earlier|later|out)-([0-9]{1,3})")
FINER = ("repeats", "low", "high", "weekly_minutes", "alarm_minutes")
MOST_EXERCISES = 300  # that a page may say it has
ADD = re.compile(r"in-([0-9]{1,3})")


@dataclass(frozen=True, slots=True)
class ExerciseLine:
    """An exercise within its block's sentence: its place in the form, its words, whether it is opened."""

    index: int
    form: forms.Form
    words: str
    is_open: bool

    @property
    def name(self) -> str:
        """What it is called."""
        return text(self.form, "name")


@dataclass(frozen=True, slots=True)
class BlockLine:
    """A block as a sentence."""

    index: int
    form: forms.Form
    minutes: str
    exercises: list[ExerciseLine]
    is_open: bool

    @property
    def name(self) -> str:
        """What it is called."""
        return text(self.form, "name")


def changed(given: QueryDict) -> tuple[QueryDict, str]:
    """Return what a page of the routine says after a word of it was touched, and what is opened then."""
    data = given.copy()
    opened = data.get("open", "")
    if match := MOVE.fullmatch(data.get("move", "")):
        _move(data, match[1], int(match[2]))
        opened = ""
    if match := ADD.fullmatch(data.get("add", "")):
        last = max(_exercises(data) - 1, 0)
        data[f"exercise-{last}-block"] = data.get(f"block-{match[1]}-name", "")
        opened = f"exercise-{last}"
    return data, opened if OPEN.fullmatch(opened) else ""


def _move(data: QueryDict, way: str, index: int) -> None:
    """Take an exercise out, or let it change places with the one before or after it in its block."""
    if way == "out":
        data[f"exercise-{index}-name"] = ""
        return
    block = str(data.get(f"exercise-{index}-block", "")).casefold()
    others = range(index - 1, -1, -1) if way == "earlier" else range(index + 1, _exercises(data))
    named = (n for n in others if data.get(f"exercise-{n}-name"))
    other = next((n for n in named if str(data[f"exercise-{n}-block"]).casefold() == block), None)
    if other is None:
        return
    here, there = (f"exercise-{n}-" for n in (index, other))
    mine = {key[len(here) :]: str(data[key]) for key in list(data) if key.startswith(here)}
    theirs = {key[len(there) :]: str(data[key]) for key in list(data) if key.startswith(there)}
    for name in mine.keys() | theirs.keys():
        data[here + name], data[there + name] = theirs.get(name, ""), mine.get(name, "")


def _exercises(data: QueryDict) -> int:
    """Return how many exercises a page says it has, the empty one included."""
    text = str(data.get("exercise-TOTAL_FORMS", ""))
    return min(int(text[:4]), MOST_EXERCISES) if text.isdecimal() else 0


def lines(whole: WholeRoutine, opened: str) -> list[BlockLine]:
    """Return the blocks in their order, each with its exercises; what names no block stands in the first."""
    blocks = [(n, form) for n, form in enumerate(whole.blocks.forms) if text(form, "name") or opened == f"block-{n}"]
    names = [text(form, "name").casefold() for _, form in blocks]
    by_block: dict[int, list[ExerciseLine]] = {n: [] for n, _ in blocks}
    for n, form in enumerate(whole.exercises.forms):
        is_open = opened == f"exercise-{n}"
        if blocks and (text(form, "name") or is_open):
            block = text(form, "block").casefold()
            index = blocks[names.index(block)][0] if block in names else blocks[0][0]
            by_block[index].append(ExerciseLine(n, form, _words(form), is_open))
    return [BlockLine(n, form, _minutes(form), by_block[n], opened == f"block-{n}") for n, form in blocks]


def when_words(whole: WholeRoutine) -> tuple[str, str]:
    """Return how many days a week, and on which none."""
    chosen = whole.form["days"].value() or []
    rest = [name for key, name in DAYS.items() if key not in chosen]
    count = len(chosen)
    days = "Every day" if count == len(DAYS) else f"{number(count).capitalize()} day{'' if count == 1 else 's'} a week"
    return days, f"resting on {joined(rest)}" if 0 < len(rest) < 4 else ""


def hidden(whole: WholeRoutine, opened: str) -> Iterator[Any]:
    """Yield the fields that are not opened: they go along unseen."""
    if opened != "when":
        yield from (whole.form[name].as_hidden() for name in ("start", "minutes", "zone"))
        yield from (forms.HiddenInput().render("days", day) for day in whole.form["days"].value() or [])
    if opened != "finer":
        yield from (whole.form[name].as_hidden() for name in FINER)
    for kind, formset in (("block", whole.blocks), ("exercise", whole.exercises)):
        closed = (form for n, form in enumerate(formset.forms) if opened != f"{kind}-{n}")
        fields = (field for form in closed for field in form if field.name != "flexible" or field.value())
        yield from (field.as_hidden() for field in fields)


def text(form: forms.Form, name: str) -> str:
    """Return what a field says, as it was typed."""
    value = form[name].value()
    return "" if value is None else str(value).strip()


def _minutes(form: forms.Form) -> str:
    least, most = text(form, "least"), text(form, "most")
    plain = f"{least} minutes" if least == most or not most else f"{least} to {most} minutes"
    return f"{plain}, stretching" if form["flexible"].value() else plain


def _words(form: forms.Form) -> str:
    """Return what of an exercise is beside its name: its keys, its season."""
    keys, a_day = text(form, "keys"), text(form, "per_session")
    found = []
    if keys:
        found.append(f"{a_day or '1'} key{'' if a_day in ('', '1') else 's'} a day")
    if start := text(form, "season_from"):
        found.append(f"{text(form, 'weeks_on') or '4'} weeks on from {start}, {text(form, 'weeks_off') or '4'} off")
    return ", ".join(found)
