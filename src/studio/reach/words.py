"""How long a silence is held, in words: the same on every page that tells it."""

from __future__ import annotations

from giusto.practice.over_takes.reaches import ReachAt
from giusto.practice.reach import Reach
from giusto.tempo import slot_ms
from studio.sheet.words import NBSP


def beats_number(value: float) -> str:
    """Return a number of beats: whole from ten on, else to a half.

    Examples
    --------
    >>> beats_number(13.4), beats_number(4.6), beats_number(1.0)
    ('13', '4.5', '1')
    """
    return f"{value:.0f}" if value >= 10 else f"{round(2 * value) / 2:g}"


def beats_words(value: float) -> str:
    """Return a length in beats with its unit."""
    text = beats_number(value)
    return f"{text} beat{'' if text == '1' else 's'}"


def seconds_words(value: float, beat_s: float) -> str:
    """Return how long so many beats last."""
    length_s = value * beat_s
    return f"{length_s:.0f}{NBSP}s" if length_s >= 10 else f"{length_s:.1f}{NBSP}s"


def bound_of(found: Reach) -> tuple[str, float] | None:
    """Return the words before a length, and the length that is told: the near end where the range runs out."""
    if found.beats is None or found.ci95_beats is None:
        return None
    if found.bounded == "below":
        return "at least ", found.ci95_beats[0]
    return ("at most ", found.ci95_beats[1]) if found.bounded == "above" else ("", found.beats)


def short_words(at: ReachAt) -> str:
    """Return how long a silence is held, in beats."""
    bound, beats = bound_of(at.reach) or ("", 0.0)
    return f"{bound}{beats_words(beats)}"


def held_words(at: ReachAt | None) -> str:
    """Return how long a silence is held, such as ``You hold 9 beats alone, 5.6 s, near 96``."""
    figure = held_figure(at)
    return f"You hold {figure}" if figure else "No silence yet"


def held_figure(at: ReachAt | None) -> str:
    """Return the same without saying whose it is: ``9 beats alone, 5.6 s, near 96``; nothing where none is held yet."""
    told = bound_of(at.reach) if at else None
    if at is None or told is None:
        return ""
    bound, beats = told
    seconds = seconds_words(beats, slot_ms(at.bpm, 1) / 1000)
    return f"{bound}{beats_words(beats)} alone, {seconds}, near {at.bpm:.0f}"


def held_heading(at: ReachAt | None) -> str:
    """Return the same as a heading: ``You hold 9 beats near 96.``."""
    told = bound_of(at.reach) if at else None
    return f"You hold {told[0]}{beats_words(told[1])} near {at.bpm:.0f}." if at and told else "No silence yet."


def seconds_of(at: ReachAt | None) -> str:
    """Return how long the length that is held lasts."""
    told = bound_of(at.reach) if at else None
    return seconds_words(told[1], slot_ms(at.bpm, 1) / 1000) if at and told else ""


def range_words(found: Reach) -> str:
    """Return the range of a reach and what it rests on."""
    low, high = found.ci95_beats or (0.0, 0.0)
    silences = f"{found.silences} silence{'' if found.silences == 1 else 's'}"
    takes = f"{found.takes} take{'' if found.takes == 1 else 's'}"
    shortest = beats_number(low) if low >= 1 else "less than 1"
    return f"{shortest} to {beats_words(high)}, by {silences} of {takes}"
