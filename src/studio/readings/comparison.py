"""Two takes side by side, in words: before and after, and whether by more than chance."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.practice.comparison import Difference, compare
from giusto.practice.judge import judge
from studio.drills.sentence.prose import short
from studio.readings.change import Change, leaned, shifted, times
from studio.readings.words import verdict_words
from studio.sheet.words import NBSP, lean_words, signed_ms
from studio.takes.models import Take
from studio.takes.plan import plan_of

NAMES = {
    "tempo": "Lean in the silence",
    "place": "Your place with the click",
    "spread": "Spread with the click",
    "clock": "Spread of your clock",
    "hand": "Spread of your hand",
    "correction": "Of a gap, each click closes",
}


@dataclass(frozen=True, slots=True)
class Comparison:
    """The pinned take, and the figures of both."""

    take: Take
    short: str
    verdict: str
    lines: list[Change]
    is_first: bool
    is_same_drill: bool


def compared(pinned: Take | None, take: Take) -> Comparison | None:
    """Return the pinned take beside this one, the earlier one first; None where none is pinned."""
    if pinned is None:
        return None
    is_first = pinned.started_at <= take.started_at
    one, other = (pinned, take) if is_first else (take, pinned)
    before, after, plan = one.reading.found, other.reading.found, plan_of(pinned)
    lines = [_line(found) for found in compare(before, after)] if before and after else []
    read = pinned.reading.found
    said = verdict_words(judge(plan, read), read) if read else ""
    same = (pinned.drill_key, pinned.tempo_bpm) == (take.drill_key, take.tempo_bpm)
    return Comparison(pinned, short(plan.drill), said, lines, is_first, same)


def _line(found: Difference) -> Change:
    return Change(
        name=NAMES[found.figure],
        before=_shown(found.figure, found.before),
        after=_shown(found.figure, found.after),
        change=_change(found),
        is_sure=found.more_than_chance,
    )


def _shown(figure: str, value: float) -> str:
    if figure == "tempo":
        return lean_words(value)
    if figure == "place":
        return signed_ms(value)
    if figure == "correction":
        return f"{100 * value:.0f}{NBSP}%"
    return f"{value:.1f}{NBSP}ms"


def _change(found: Difference) -> str:
    low, high = found.ci95
    if found.figure == "tempo":
        return leaned(found.change, low, high)
    if found.figure == "place":
        return shifted(found.change, low, high, later="later", earlier="earlier", unit=f"{NBSP}ms")
    if found.figure == "correction":
        parts = (100 * found.change, 100 * low, 100 * high)
        return shifted(*parts, later="more", earlier="less", unit=" of 100")
    return times(found.change, low, high)
