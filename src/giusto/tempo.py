"""Tempo, note values and the time a beat takes.

A tempo is a number of beats a minute together with the note value of that beat. Numbers stay
exact fractions until seconds are asked for.
"""

from __future__ import annotations

from fractions import Fraction

SECONDS_PER_MINUTE = 60


def beat_period_s(tempo_bpm: float | Fraction) -> Fraction:
    """Return how long one beat lasts, exactly.

    Parameters
    ----------
    tempo_bpm : float or Fraction
        Beats a minute, above 0. A float counts as the decimal number it prints as.

    Returns
    -------
    Fraction
        Seconds a beat.

    Examples
    --------
    >>> beat_period_s(96)
    Fraction(5, 8)
    >>> float(beat_period_s(132.5))
    0.4528301886792453
    """
    return Fraction(SECONDS_PER_MINUTE) / exact_bpm(tempo_bpm)


def exact_bpm(tempo_bpm: float | Fraction) -> Fraction:
    """Return a tempo as the exact decimal number that a person typed.

    Examples
    --------
    >>> exact_bpm(96.1)
    Fraction(961, 10)
    """
    return tempo_bpm if isinstance(tempo_bpm, Fraction) else Fraction(str(tempo_bpm))


def held_tempo_bpm(tempo_bpm: float, *, asked_s: float, drift_s: float) -> float:
    """Return the tempo really held over a stretch whose end came ``drift_s`` late.

    Parameters
    ----------
    tempo_bpm : float
        The tempo asked for.
    asked_s : float
        How long the stretch should last, above 0.
    drift_s : float
        What the clock gained on the grid over it; positive is late, so slower.

    Returns
    -------
    float
        Beats a minute.

    Notes
    -----
    ``tempo · asked / (asked + drift)``: the same beats in a longer time.

    Examples
    --------
    >>> round(held_tempo_bpm(96, asked_s=5.625, drift_s=0.041), 1)
    95.3
    """
    return tempo_bpm * asked_s / (asked_s + drift_s)


def deviation_percent(tempo_bpm: float, *, asked_bpm: float) -> float:
    """Return how far a tempo lies from the one asked, in percent; positive is faster."""
    return 100.0 * (tempo_bpm / asked_bpm - 1.0)


def slot_ms(tempo_bpm: float, slots: int) -> float:
    """Return how long one slot lasts where a beat has so many, in ms."""
    return 1000 * float(beat_period_s(tempo_bpm)) / slots
