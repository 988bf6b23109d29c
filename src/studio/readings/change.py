"""A figure before and after, in words, and whether the change is more than chance."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Change:
    """One figure before and after: of two takes, or where the line through many begins and ends."""

    name: str
    before: str
    after: str
    change: str
    is_sure: bool


def points(change: float, low: float, high: float, *, digits: int = 1) -> str:
    """Return a change of a share in words: ``−0.8 points, −1.2 to −0.4``."""
    return f"{change:+.{digits}f} points, {low:+.{digits}f} to {high:+.{digits}f}".replace("-", "−")


def times(change: float, low: float, high: float) -> str:
    """Return a change of a size in words: ``0.73 times, 0.60 to 0.89``."""
    return f"{change:.2f} times, {low:.2f} to {high:.2f}"
