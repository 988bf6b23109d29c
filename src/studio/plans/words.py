"""A day in words: what it holds, and, when it closes, what was done and what comes next time."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from giusto.plan.day import is_break, played
from studio.plans.today import ItemLine, Today
from studio.words import joined, number, takes_words


@dataclass(frozen=True, slots=True)
class ClosedLine:
    """What a day held of an exercise, what was done of it, and the line for the next time, where one can be kept."""

    name: str
    done: str
    exercise: int | None = None
    wrote: str = ""


@dataclass(frozen=True, slots=True)
class Closing:
    """A day that is over: minutes and takes, and line by line what was done."""

    minutes: int
    takes: int
    lines: list[ClosedLine]


def lead(today: Today) -> str:
    """Return what a day holds, in a sentence or two."""
    said = [f"{number(today.minutes).capitalize()} minute{'' if today.minutes == 1 else 's'}."]
    if keys := list(dict.fromkeys(line.item.slot.key for line in today.lines if line.item.slot.key)):
        said.append(f"{number(len(keys)).capitalize()} key{'' if len(keys) == 1 else 's'} today: {joined(keys)}.")
    if is_break(today.away):
        said.append(f"{number(today.away).capitalize()} days away: it eases back, and says where things stood.")
    if today.left_out:
        said.append(f"No room today for {joined(list(today.left_out))}.")
    return " ".join(said)


def closing(today: Today) -> Closing:
    """Return what a day came to."""
    planned = {exercise for line in today.lines for exercise in line.item.exercises}
    lines = [_closed(line) for line in today.lines]
    if others := [take for take in today.takes if take.exercise not in planned]:
        lines.append(ClosedLine("Beside the plan", _played(len(others), played(others))))
    return Closing(round(played(today.takes).total_seconds() / 60), len(today.takes), lines)


def _closed(line: ItemLine) -> ClosedLine:
    spent, item = line.spent, line.item
    if spent.takes:
        done = f"{_played(spent.takes, spent.played)}. {item.what}"
    else:
        done = "skipped" if line.is_skipped and item.url else "done" if line.is_over else "not today"
    return ClosedLine(item.name, done, item.exercise, item.wrote)


def _played(takes: int, time: timedelta) -> str:
    minutes = round(time.total_seconds() / 60)
    return f"{takes_words(takes)}, {f'{minutes} min' if minutes else 'under a minute'}"
