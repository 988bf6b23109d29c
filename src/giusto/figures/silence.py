"""What happened in each silence: return, drift, tempo held and outcome."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import sqrt
from typing import Literal

from giusto.figures.tendency import lean_percent, lean_range
from giusto.ranges import Z95, Range, interval, rounded
from giusto.returns.drift import HELD_SHARE
from giusto.tempo import deviation_percent, held_tempo_bpm

READABLE_SHARE = 0.5  # fewer caught notes than this, and fewer than nearly one a beat, and a silence is not read
READABLE_PER_BEAT = 0.8  # ours: quarters or offbeats alone, where eighths were asked, show the time as well
SLIP_NEAR = 0.25  # ours: of a beat; further from a whole number, no beat was lost or gained
WIDER = 1.08  # ours: what the sizes of few notes leave uncertain beyond their posterior, by ./giusto bench
MOST_HASTE = 0.9  # ours: of a silence's length; a return this early is no tempo any more

Came = Literal["at once", "steadily", "growing"]
Outcome = Literal["held", "early", "late", "edge", "unreadable"]


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
    held_chance : float or None
        That the true return lies within 5 % of a beat of the player's place, by this take alone.
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
    slip_beats: int | None = field(default=None, kw_only=True)  # the first version had none
    outcome: Outcome
    lean_percent: float | None = None
    lean_ci95_percent: Range | None = None
    course: Came | None = None
    held_chance: float | None = None


@dataclass(frozen=True, slots=True)
class SilenceSpan:
    """Where a silence lies, how much of it was caught, whether its end was reached, or the player stopped inside."""

    start_s: float
    end_s: float
    beats: float
    asked: int
    caught: int
    reached: bool = True
    stopped: bool = False

    @property
    def readable(self) -> bool:
        """Whether it was played to its end, and half of its notes, or nearly one a beat, were caught."""
        return self.reached and self.caught > 0 and self.caught >= self.enough

    @property
    def enough(self) -> float:
        """How many caught notes make it readable."""
        return min(READABLE_SHARE * self.asked, READABLE_PER_BEAT * self.beats)


def read_silence(
    span: SilenceSpan,
    *,
    drift_ms: float,
    drift_var: float,
    return_ms: float | None,
    return_var: float,
    bpm: float,
    lean: float,
    lean_var: float,
    course: Came | None,
    is_followed: bool = False,
) -> SilenceReading:
    """Turn the smoother's figures for one silence into its reading.

    Parameters
    ----------
    span : SilenceSpan
    drift_ms, drift_var, return_var : float
        In ms and ms².
    return_ms : float or None
        None where the player's place with the click isn't known.
    bpm : float
        The tempo asked.
    lean, lean_var : float
        Drift a unit of time that the clock was set to.
    course : str or None
    is_followed : bool
        Whether notes were caught so closely, without a leap, that the clock was followed all the way.

    Returns
    -------
    SilenceReading

    Notes
    -----
    Tempo held is ``asked · T / (T + drift)``; ranges are ±1.96 standard deviations, times ``WIDER``.
    """
    if not span.readable:
        return unread(span)
    drift = interval(drift_ms, drift_var, quantile=WIDER * Z95)
    length_s = span.end_s - span.start_s

    def tempo(gained_ms: float) -> float:
        return held_tempo_bpm(bpm, asked_s=length_s, drift_s=max(gained_ms / 1000, -MOST_HASTE * length_s))

    percent = rounded(
        (deviation_percent(tempo(drift[1]), asked_bpm=bpm), deviation_percent(tempo(drift[0]), asked_bpm=bpm))
    )
    back = None if return_ms is None else interval(return_ms, return_var, quantile=WIDER * Z95)
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
        ci95_percent=percent,
        slip_beats=None if return_ms is None else slip_beats(return_ms, beat_ms=beat_ms(bpm), is_followed=is_followed),
        outcome="unreadable" if back is None else "edge",  # ``figures.held`` calls it, from all of the take
        lean_percent=round(float(lean_percent(lean)), 3),
        lean_ci95_percent=lean_range(lean, lean_var),
        course=course,
    )


def unread(span: SilenceSpan) -> SilenceReading:
    """Return the reading of a silence that can't be read."""
    return SilenceReading(
        start_s=span.start_s,
        end_s=span.end_s,
        beats=span.beats,
        notes=span.caught,
        return_ms=None,
        return_ci95_ms=None,
        drift_ms=None,
        ci95_ms=None,
        tempo_bpm=None,
        tempo_percent=None,
        ci95_percent=None,
        slip_beats=None,
        outcome="unreadable",
    )


def slip_beats(return_ms: float, *, beat_ms: float, is_followed: bool = False) -> int:
    """Return the whole beats lost (negative) or gained; 0 where a drift led there, or near no whole number.

    Parameters
    ----------
    return_ms, beat_ms : float
    is_followed : bool
        Whether the notes show the way there: then it is a drift, however far it leads.

    Examples
    --------
    >>> slip_beats(40.0, beat_ms=625.0), slip_beats(700.0, beat_ms=625.0), slip_beats(-1200.0, beat_ms=625.0)
    (0, -1, 2)
    >>> slip_beats(380.0, beat_ms=625.0), slip_beats(640.0, beat_ms=625.0, is_followed=True)
    (0, 0)
    """
    beats = return_ms / beat_ms
    is_whole = abs(beats - round(beats)) <= SLIP_NEAR
    return -round(beats) if is_whole and not is_followed else 0


def mean_return(silences: Sequence[SilenceReading]) -> tuple[float, Range]:
    """Return the mean return of the silences that have one, and its range: independent, so in squares."""
    read = [(s.return_ms, s.return_ci95_ms) for s in silences if s.return_ms is not None and s.return_ci95_ms]
    mean = sum(ms for ms, _ in read) / len(read)
    half = sqrt(sum(((high - low) / 2) ** 2 for _, (low, high) in read)) / len(read)
    return mean, (mean - half, mean + half)


def beat_ms(bpm: float) -> float:
    """Return how long a beat lasts, in ms."""
    return 60_000 / bpm


def held_limit_ms(bpm: float) -> float:
    """Return how far from the player's place a return may lie and still count as held."""
    return HELD_SHARE * beat_ms(bpm)
