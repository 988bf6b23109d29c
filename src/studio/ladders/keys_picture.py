"""A split exercise as threads: a column for each key, in it one for each hand or section, as long as what is held."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

from studio.ladders.standing import LadderStanding
from studio.ladders.words import asked, value_word

TOP, ROOM = 36.0, 500.0  # px: where threads hang from, and how far down the goal is
MOST_LINES = 7  # of the scale
APART = 11.0  # px between the hands of a key


@dataclass(frozen=True, slots=True)
class KeyThread:
    """A part: where its thread ends, where its next step hangs, and what it says."""

    x: float
    y: float
    next_y: float
    url: str
    label: str
    is_next: bool


@dataclass(frozen=True, slots=True)
class KeysPicture:
    """All parts side by side; of each column its middle, its name, whether it is the next; the next one's band."""

    name: str
    width: float
    left: float
    heads: list[tuple[float, str, bool]]
    bands: list[tuple[float, float]]
    scale: list[tuple[float, str]]
    threads: list[KeyThread]
    wide: float
    top: float = TOP
    room: float = ROOM
    bottom: float = TOP + ROOM
    height: float = TOP + ROOM + 8

    @property
    def off(self) -> float:
        """How far to the left of its thread a touch begins."""
        return -self.wide / 2


def draw_keys(
    parts: Sequence[LadderStanding], following: LadderStanding | None, *, name: str, width: float
) -> KeysPicture:
    """Return the parts of an exercise, which are there, in the order in which they were made."""
    left, core = 50.0, parts[0].ladder.core
    last = len(core.values)
    columns = [(key, list(ones)) for key, ones in groupby(parts, key=_column)]
    apart = (width - left) / len(columns)

    def y(rung: int) -> float:
        return round(TOP + ROOM * rung / last, 1)

    heads, bands, threads = [], [], []
    for index, (key, ones) in enumerate(columns):
        middle = round(left + apart * (index + 0.5), 1)
        is_here = following in ones
        heads.append((middle, key, is_here))
        if is_here:
            bands.append((round(middle - apart / 2, 1), round(apart - 2, 1)))
        first = middle - APART * (len(ones) - 1) / 2
        for number, one in enumerate(ones):
            label = f"{one.ladder.exercise.part_name}: {asked(one.ladder.core, one.step)}"
            x, secure = round(first + APART * number, 1), min(one.step.secure, last)
            next_y = y(min(one.step.rung, last))
            threads.append(KeyThread(x, y(secure), next_y, one.ladder.get_absolute_url(), label, one is following))
    step = max(1, -(-last // MOST_LINES))
    scale = [(y(rung), value_word(core, rung)) for rung in (*range(step, last, step), last)]
    return KeysPicture(name, width, left, heads, bands, scale, threads, min(APART, apart))


def _column(one: LadderStanding) -> str:
    exercise = one.ladder.exercise
    return exercise.music_key or exercise.section or ""
