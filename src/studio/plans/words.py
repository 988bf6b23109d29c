"""A day in words: what it holds, and, when it closes, what was done and what comes next time."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from giusto.plan.day import is_break, played
from studio.plans.today import ItemLine, Today
from studio.words import joined, number, takes_words


@dataclass(frozen=True, slots=True)
class Closing:
    """A day that is over: minutes and takes, and line by line what was done and what comes next time."""

    minutes: int
    takes: int
    lines: list[tuple[str, str, str]]


def lead(today: Today) -> str:
    """Return what a day holds, in a sentence or two."""
    blocks = list(dict.fromkeys(line.item.slot.block for line in today.lines))
    count = f"{number(len(blocks))} block{'' if len(blocks) == 1 else 's'}"
    said = [f"{number(today.minutes).capitalize()} minute{'' if today.minutes == 1 else 's'} in {count}."]
    if is_break(today.away):
        said.append(f"{number(today.away).capitalize()} days away: it eases back, and says where things stood.")
    if today.left_out:
        said.append(f"No room today for {joined(list(today.left_out))}.")
    near = next((line.item for line in today.lines if not line.is_over and _is_near(line)), None)
    if near:
        said.append(f"One clean take more of {near.name} opens {near.then}.")
    return " ".join(said)


def _is_near(line: ItemLine) -> bool:
    """Whether one clean take more opens another rung."""
    return line.item.wanted - line.item.so_far == 1 and bool(line.item.then)


def closing(today: Today) -> Closing:
    """Return what a day came to."""
    planned = {exercise for line in today.lines for exercise in line.item.exercises}
    lines = [_closed(line) for line in today.lines]
    if others := [take for take in today.takes if take.exercise not in planned]:
        lines.append(("Beside the plan", _played(len(others), played(others)), ""))
    return Closing(round(played(today.takes).total_seconds() / 60), len(today.takes), lines)


def _closed(line: ItemLine) -> tuple[str, str, str]:
    """Return an item, what was done of it, and what comes next time."""
    spent, item = line.spent, line.item
    if spent.takes:
        done = _played(spent.takes, spent.played)
    else:
        done = "skipped" if line.is_skipped and item.url else "done" if line.is_over else "not today"
    return item.name, done, item.what if item.url else ""


def _played(takes: int, time: timedelta) -> str:
    minutes = round(time.total_seconds() / 60)
    return f"{takes_words(takes)}, {f'{minutes} min' if minutes else 'under a minute'}"
