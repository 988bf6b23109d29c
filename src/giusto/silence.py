"""What happened in each silence: return, drift, tempo held and outcome."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import Literal

import numpy as np

from giusto.tempo import deviation_percent, held_tempo_bpm

HELD_SHARE = 0.05  # of a beat on either side; a setting, ours (see docs/decisions/0005)
READABLE_SHARE = 0.5  # fewer caught notes than this and a silence is not read
Z95 = 1.959963984540054  # the 97.5 % point of the normal distribution

Way = Literal["at once", "steadily", "growing"]
Outcome = Literal["held", "early", "late", "edge", "unreadable"]
Range = tuple[float, float]


@dataclass(frozen=True, slots=True)
class SilenceReading:
    """One silence of a take, as ``reading/1`` writes it.

    Attributes
    ----------
    start_s, end_s : float
        The clicks that it stands between, from the drill's time zero.
    beats : float
        Its length.
    notes : int
        Caught notes from its first click to its last, both included.
    return_ms, return_ci95_ms
        Where the clock stood at the returning click, against the player's own place; late is
        positive.
    drift_ms, ci95_ms
        What the clock gained on the grid from the first click to the last.
    tempo_bpm, tempo_percent, ci95_percent
        The tempo held; faster is positive.
    lean_percent, lean_ci95_percent
        The tempo the clock was set to, its own noise apart: what to expect of another such silence,
        where ``tempo_percent`` is what happened in this one. Faster is positive.
    course : str or None
        How the drift came: ``at once``, ``steadily`` or ``growing``; None where the notes don't say.
    slip_beats : int or None
        Whole beats lost (−) or gained (+) against the count when the click came back.
    outcome : str
        ``held``, ``early``, ``late``, ``edge`` or ``unreadable``.
    """

    start_s: float
    end_s: float
    beats: float
    notes: int
    return_ms: float | None
    return_ci95_ms: Range | None
    drift_ms: float | None
    ci95_ms: Range | None
    tempo_bpm: float | None
    tempo_percent: float | None
    ci95_percent: Range | None
    slip_beats: int | None
    outcome: Outcome
    lean_percent: float | None
    lean_ci95_percent: Range | None
    course: Way | None


@dataclass(frozen=True, slots=True)
class Span:
    """Where a silence lies, and how much of it was caught."""

    start_s: float
    end_s: float
    beats: float
    asked: int
    caught: int

    @property
    def readable(self) -> bool:
        """Whether at least half of the notes were caught."""
        return self.caught > 0 and self.caught >= READABLE_SHARE * self.asked


def read_silence(
    span: Span,
    *,
    drift_ms: float,
    drift_var: float,
    return_ms: float | None,
    return_var: float,
    bpm: float,
    lean: float,
    lean_var: float,
    course: Way | None,
) -> SilenceReading:
    """Turn the smoother's figures for one silence into its reading.

    Parameters
    ----------
    span : Span
    drift_ms, drift_var, return_var : float
        In ms and ms².
    return_ms : float or None
        None where the player's place with the click isn't known.
    bpm : float
        The tempo asked.
    lean, lean_var : float
        Drift a unit of time that the clock was set to.
    course : str or None

    Returns
    -------
    SilenceReading

    Notes
    -----
    Tempo held is ``asked · T / (T + drift)``; ranges are ±1.96 standard deviations.
    """
    if not span.readable:
        return unread(span)
    drift = interval(drift_ms, drift_var)
    length_s = span.end_s - span.start_s

    def tempo(gained_ms: float) -> float:
        return held_tempo_bpm(bpm, asked_s=length_s, drift_s=max(gained_ms / 1000, -0.9 * length_s))

    percent = [round(deviation_percent(tempo(ms), asked_bpm=bpm), 3) for ms in (drift[1], drift[0])]
    back = None if return_ms is None else interval(return_ms, return_var)
    return SilenceReading(
        start_s=span.start_s,
        end_s=span.end_s,
        beats=span.beats,
        notes=span.caught,
        return_ms=None if return_ms is None else round(return_ms, 3),
        return_ci95_ms=back,
        drift_ms=round(drift_ms, 3),
        ci95_ms=drift,
        tempo_bpm=round(tempo(drift_ms), 3),
        tempo_percent=round(deviation_percent(tempo(drift_ms), asked_bpm=bpm), 3),
        ci95_percent=(percent[0], percent[1]),
        slip_beats=None if return_ms is None else slip_beats(return_ms, beat_ms=60_000 / bpm),
        outcome="unreadable" if back is None else outcome(back, limit_ms=held_limit_ms(bpm)),
        lean_percent=round(faster(lean), 3),
        lean_ci95_percent=_faster_range(lean, lean_var),
        course=course,
    )


def faster(lean: float) -> float:
    """Return a lean (drift a unit of time, late positive) as tempo deviation in percent."""
    return 100 * (1 / max(1 + lean, 0.1) - 1)


def _faster_range(lean: float, variance: float) -> Range:
    low, high = (faster(lean + sign * Z95 * sqrt(variance)) for sign in (1, -1))
    return round(low, 3), round(high, 3)


def unread(span: Span) -> SilenceReading:
    """Return the reading of a silence that can't be read."""
    figures = dict.fromkeys(
        (
            "return_ms",
            "return_ci95_ms",
            "drift_ms",
            "ci95_ms",
            "tempo_bpm",
            "tempo_percent",
            "ci95_percent",
            "lean_percent",
            "lean_ci95_percent",
            "course",
        )
    )
    return SilenceReading(
        start_s=span.start_s,
        end_s=span.end_s,
        beats=span.beats,
        notes=span.caught,
        slip_beats=None,
        outcome="unreadable",
        **figures,
    )


def slip_beats(return_ms: float, *, beat_ms: float) -> int:
    """Return the whole beats lost (negative) or gained, to the nearest beat.

    Examples
    --------
    >>> slip_beats(40.0, beat_ms=625.0), slip_beats(700.0, beat_ms=625.0), slip_beats(-1200.0, beat_ms=625.0)
    (0, -1, 2)
    """
    return -round(return_ms / beat_ms)


def held_limit_ms(bpm: float) -> float:
    """Return how far from the player's place a return may lie and still count as held."""
    return HELD_SHARE * 60_000 / bpm


def outcome(back_ms: Range, *, limit_ms: float) -> Outcome:
    """Return what a return's range says against the limit.

    Examples
    --------
    >>> outcome((-10.0, 12.0), limit_ms=31.0), outcome((34.0, 54.0), limit_ms=31.0)
    ('held', 'late')
    >>> outcome((-54.0, -33.0), limit_ms=31.0), outcome((20.0, 40.0), limit_ms=31.0)
    ('early', 'edge')
    """
    low, high = back_ms
    if -limit_ms <= low and high <= limit_ms:
        return "held"
    if high < -limit_ms:
        return "early"
    return "late" if low > limit_ms else "edge"


def interval(mean: float, variance: float, *, quantile: float = Z95) -> Range:
    """Return the 95 % range of a figure, rounded to a thousandth; normal unless a quantile is given."""
    half = quantile * sqrt(max(variance, 0.0))
    return round(float(mean - half), 3), round(float(mean + half), 3)


def sample_sd(values: np.ndarray) -> float | None:
    """Return the standard deviation with n − 1, or None for fewer than two values."""
    return round(float(np.std(values, ddof=1)), 3) if values.size > 1 else None
