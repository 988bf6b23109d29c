"""Two takes side by side, in words: before and after, and whether by more than chance."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from giusto.comparison import Difference, compare
from giusto.errors import GiustoError
from giusto.reading import parse
from studio.drills.sentence import short
from studio.readings.words import verdict
from studio.sheet.words import NBSP, signed_ms
from studio.takes.models import Take
from studio.takes.reading import plan_of

NAMES = {
    "tempo": "Lean in the silence",
    "place": "Your place with the click",
    "spread": "Spread with the click",
    "clock": "Spread of your clock",
    "hand": "Spread of your hand",
    "correction": "A click takes back",
}


@dataclass(frozen=True, slots=True)
class Line:
    """One figure of two takes."""

    name: str
    before: str
    after: str
    change: str
    judged: str


@dataclass(frozen=True, slots=True)
class Beside:
    """The pinned take, and the figures of both."""

    take: Take
    short: str
    verdict: str
    thread: dict[str, Any] | None
    lines: list[Line]
    is_first: bool


def beside(pinned: Take | None, take: Take) -> Beside | None:
    """Return the pinned take beside this one, the earlier one first; None where none is pinned."""
    if pinned is None:
        return None
    is_first = pinned.started_at <= take.started_at
    one, other = (pinned, take) if is_first else (take, pinned)
    try:
        lines = [_line(found) for found in compare(parse(one.reading.spec), parse(other.reading.spec))]
    except GiustoError:
        lines = []
    spec = pinned.reading.spec
    said = verdict(spec["silences"], spec["onsets"]["matched"]) if spec else ""
    return Beside(pinned, short(plan_of(pinned).drill), said, pinned.reading.thread, lines, is_first)


def _line(found: Difference) -> Line:
    return Line(
        name=NAMES[found.figure],
        before=_shown(found.figure, found.before),
        after=_shown(found.figure, found.after),
        change=_change(found),
        judged="more than chance" if found.more_than_chance else "may be chance",
    )


def _shown(figure: str, value: float) -> str:
    if figure == "tempo":
        return f"{abs(value):.1f}{NBSP}% {'fast' if value > 0 else 'slow'}"
    if figure == "place":
        return signed_ms(value)
    if figure == "correction":
        return f"{100 * value:.0f}{NBSP}%"
    return f"{value:.1f}{NBSP}ms"


def _change(found: Difference) -> str:
    low, high = found.ci95
    if found.figure == "tempo":
        return f"{found.change:+.1f} points, {low:+.1f} to {high:+.1f}".replace("-", "−")
    if found.figure == "place":
        return f"{round(found.change):+}{NBSP}ms, {round(low):+} to {round(high):+}".replace("-", "−")
    if found.figure == "correction":
        change, low, high = (round(100 * value) for value in (found.change, low, high))
        return f"{change:+} points, {low:+} to {high:+}".replace("-", "−")
    return f"{found.change:.2f} times, {low:.2f} to {high:.2f}"
