"""Figures as the words that stand beside a bob. No-break spaces, true minus, direction by a word."""

from __future__ import annotations

from collections.abc import Sequence

from giusto.figures.silence import SilenceReading

NBSP = "\u00a0"
LEAST_HALF_BPM = 0.05  # of a range; less would be told as 0.0


def signed_ms(ms: float) -> str:
    r"""Return an error as ``44 ms late``, ``12 ms early`` or ``0 ms``.

    Examples
    --------
    >>> signed_ms(44.2), signed_ms(-11.7)
    ('44\xa0ms late', '12\xa0ms early')
    """
    size = round(abs(ms))
    return f"{size}{NBSP}ms{side(ms) if size else ''}"


def span_ms(ends: Sequence[float]) -> str:
    """Return a range of errors: by size where both ends are on one side, else each with its word.

    Examples
    --------
    >>> span_ms((-35.2, -31.8)), span_ms((-6, 22)), span_ms((0.2, 9))
    ('32 to 35', '6 early to 22 late', '0 to 9')
    """
    low, high = (round(end) for end in ends)
    if low * high >= 0:
        near, far = sorted((abs(low), abs(high)))
        return f"{near} to {far}"
    return f"{-low} early to {high} late"


def side(value: float) -> str:
    """Return `` late`` for what is positive, `` early`` for what is negative."""
    return " late" if value > 0 else " early"


def returned(silence: SilenceReading) -> str:
    """Return the one line beside a bob."""
    if silence.outcome == "unreadable" or silence.return_ms is None:
        return "can’t be told"
    return "held" if silence.outcome == "held" else signed_ms(silence.return_ms)


def returned_in_beats(silence: SilenceReading, beat_ms: float) -> str:
    """Return the same where the scale is in beats: ``1.1 beats late``."""
    if silence.outcome in ("unreadable", "held") or silence.return_ms is None:
        return returned(silence)
    beats = silence.return_ms / beat_ms
    return f"{abs(beats):.1f}{NBSP}beats{side(beats)}"


def spread(silence: SilenceReading) -> str:
    """Return the range: ``give or take 10``, beside the place if it was held, the chance if it can’t be called."""
    if silence.return_ci95_ms is None or silence.return_ms is None:
        return ""
    low, high = silence.return_ci95_ms
    half = f"give or take{NBSP}{round((high - low) / 2)}"
    if silence.outcome == "held":
        return f"{signed_ms(silence.return_ms)}, {half}"
    if silence.outcome == "edge" and silence.held_chance is not None:
        return f"{half}, held {min(max(round(10 * silence.held_chance), 1), 9)} in 10"
    return half


def half_words(half_bpm: float) -> str:
    """Return half of a range of tempi, which is never told as nothing.

    Examples
    --------
    >>> half_words(0.42), half_words(0.04)
    ('give or take 0.4', 'give or take less than 0.1')
    """
    return f"give or take {half_bpm:.1f}" if half_bpm >= LEAST_HALF_BPM else "give or take less than 0.1"


def became(silence: SilenceReading, bpm: float) -> str:
    """Return ``96 became 95.2``; nothing where the silence can't be read."""
    return "" if silence.tempo_bpm is None else f"{bpm:g} became {silence.tempo_bpm:.1f}"


def lean_words(percent: float) -> str:
    """Return a lean as ``1.2 % slow``."""
    size = f"{abs(percent):.1f}{NBSP}%"
    return size if size.startswith("0.0") else f"{size} {'fast' if percent > 0 else 'slow'}"
