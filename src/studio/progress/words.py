"""Progress in words; a change is told only where it is more than chance."""

from __future__ import annotations

from math import exp

from giusto.practice.course import Course
from studio.progress.weeks import Figure
from studio.readings.change import leaned, shifted, times
from studio.sheet.words import NBSP, lean_words, signed_ms


def lean_heading(figure: Figure) -> str:
    """Return how the lean went: less, more, or too few to say.

    An end counts as a side of its own only where it is further from none than the change is sure: *now you drag* is not
    said of what may be nothing.
    """
    found = figure.course
    if found is None or found.is_early:
        return "Your lean when alone"
    if not found.more_than_chance:
        return "No change by more than chance"
    before, now = ("drag" if end < 0 else "rush" for end in (found.first, found.latest))
    low, high = found.ci95
    if before != now and min(abs(found.first), abs(found.latest)) > (high - low) / 2:
        return f"You used to {before}, now you {now}"
    is_less = abs(found.latest) < abs(found.first)
    return f"Less {before} than before" if is_less else f"More {now} than before"


def course_words(figure: Figure) -> str:
    """Return how a figure went over the weeks that are shown."""
    found = figure.course
    if found is None or found.is_early:
        return "Too few takes to say how it went."
    low, high = found.ci95
    first, latest = (_value(figure, value) for value in (found.first, found.latest))
    change = times(exp(found.change), exp(low), exp(high)) if figure.is_size else _shifted(figure, found)
    told = "more than chance" if found.more_than_chance else "no more than chance"
    return f"{first}, now {latest}: {change}, {told}, over {found.takes} takes."


def _value(figure: Figure, value: float) -> str:
    if figure.key == "lean":
        return lean_words(value)
    if figure.key == "place":
        return signed_ms(value)
    if figure.key == "alpha":
        return f"{100 * value:.0f}{NBSP}{figure.unit}"
    shown = exp(value) if figure.is_size else value
    return f"{shown:.1f}{NBSP}{figure.unit}"


def _shifted(figure: Figure, found: Course) -> str:
    if figure.key == "lean":
        return leaned(found.change, *found.ci95)
    if figure.key == "place":
        return shifted(found.change, *found.ci95, later="later", earlier="earlier", unit=f"{NBSP}ms")
    low, high = found.ci95
    return shifted(100 * found.change, 100 * low, 100 * high, later="more", earlier="less", unit=" of 100")
