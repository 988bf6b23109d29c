"""How long a silence is held, in words: the same on every page that tells it.

Lengths come click to click, as reach is measured; what is said counts the beats that are without a click, as players
and the page that sets a click do: two bars of four are eight beats alone, and nine from the last click to the next.
"""

from __future__ import annotations

from giusto.practice.over_takes.reaches import ReachAt
from giusto.practice.reach import Reach
from giusto.tempo import slot_ms
from studio.sheet.words import NBSP

LEAST_BEATS = 0.5  # less is told as less


def beats_alone(length: float) -> float:
    """Return how many beats of a silence, given in beats click to click, are without a click."""
    return max(length - 1, 0.0)


def beats_number(length: float) -> str:
    """Return the beats alone in a silence, given click to click: whole from ten on, else to a half.

    Examples
    --------
    >>> beats_number(13.4), beats_number(5.6), beats_number(2.0), beats_number(1.1)
    ('12', '4.5', '1', 'less than 0.5')
    """
    alone = beats_alone(length)
    if alone >= 10:
        return f"{alone:.0f}"
    return f"{halves / 2:g}" if (halves := round(2 * alone)) else "less than 0.5"


def beats_words(length: float) -> str:
    """Return the same with its unit."""
    text = beats_number(length)
    return f"{text} beat{'' if text == '1' else 's'}"


def seconds_words(length: float, beat_s: float) -> str:
    """Return how long the beats alone last."""
    if beats_alone(length) < LEAST_BEATS / 2:
        return f"less than {LEAST_BEATS * beat_s:.1f}{NBSP}s"
    length_s = beats_alone(length) * beat_s
    return f"{length_s:.0f}{NBSP}s" if length_s >= 10 else f"{length_s:.1f}{NBSP}s"


def bound_of(found: Reach) -> tuple[str, float] | None:
    """Return the words before a length, and the length that is told: the near end where the range runs out.

    None where nothing is known, or where not even a beat alone is sure.
    """
    if found.beats is None or found.ci95_beats is None:
        return None
    if found.bounded == "below":
        low = found.ci95_beats[0]
        return ("at least ", low) if beats_alone(low) >= 1 else None
    if found.bounded == "above" and beats_alone(found.ci95_beats[1]) >= LEAST_BEATS:
        return "at most ", found.ci95_beats[1]
    return "", found.beats


def short_words(at: ReachAt) -> str:
    """Return how long a silence is held, in beats."""
    told = bound_of(at.reach)
    return f"{told[0]}{beats_words(told[1])}" if told else "not sure"


def held_words(at: ReachAt | None) -> str:
    """Return how long a silence is held, such as ``You hold 8 beats alone, 5.0 s, near 96``."""
    figure = held_figure(at)
    return f"You hold {figure}" if figure else unknown_words(at)


def unknown_words(at: ReachAt | None) -> str:
    """Return what is said where no length is told: no silence is known, or too few."""
    return "How long you hold is not sure yet" if at and at.reach.silences else "No silence yet"


def held_figure(at: ReachAt | None) -> str:
    """Return the same without saying whose it is: ``8 beats alone, 5.0 s, near 96``; nothing where none is held yet."""
    told = bound_of(at.reach) if at else None
    if at is None or told is None:
        return ""
    bound, beats = told
    seconds = seconds_words(beats, slot_ms(at.bpm, 1) / 1000)
    return f"{bound}{beats_words(beats)} alone, {seconds}, near {at.bpm:.0f}"


def held_heading(at: ReachAt | None) -> str:
    """Return the same as a heading: ``You hold 8 beats alone near 96.``."""
    told = bound_of(at.reach) if at else None
    if at is None or told is None:
        return f"{unknown_words(at)}."
    return f"You hold {told[0]}{beats_words(told[1])} alone near {at.bpm:.0f}."


def seconds_of(at: ReachAt | None) -> str:
    """Return how long the length that is held lasts."""
    told = bound_of(at.reach) if at else None
    return seconds_words(told[1], slot_ms(at.bpm, 1) / 1000) if at and told else ""


def range_words(found: Reach) -> str:
    """Return the range of a reach and what it rests on."""
    low, high = found.ci95_beats or (0.0, 0.0)
    silences = f"{found.silences} silence{'' if found.silences == 1 else 's'}"
    takes = f"{found.takes} take{'' if found.takes == 1 else 's'}"
    return f"{beats_number(low)} to {beats_words(high)}, by {silences} of {takes}"
