"""A seeded player whose true clock is known: for tests, demo data and playing without hands.

The player is the two-level timekeeper of Wing and Kristofferson with linear phase correction: a
clock that is corrected by each heard click and drifts when alone, and a hand that adds its own
noise to each note.
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
import scipy

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.errors import GiustoError
from giusto.schedule import Schedule
from giusto.schedule.timeline import REACTION_S, Timeline, returns, timeline

# What a player's figures may be: lowest, highest. Ours, wide around the published values.
RANGES: dict[str, tuple[float, float]] = {
    "bias_percent": (-20.0, 20.0),
    "clock_percent": (0.0, 20.0),
    "clock_lag": (0.0, 0.95),
    "wander_percent": (0.0, 10.0),
    "hand_ms": (0.0, 100.0),
    "place_ms": (-200.0, 200.0),
    "alpha": (0.0, 1.0),
    "missed": (0.0, 0.9),
    "extra": (0.0, 0.9),
    "density": (0.05, 1.0),
    "slip_beats": (-8.0, 8.0),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SimulatedPlayer:
    """How a simulated player plays.

    Parameters
    ----------
    bias_percent : float
        Tempo held in a silence over the tempo asked, minus one; positive rushes.
    clock_percent : float
        Standard deviation of the clock's interval, in percent of that interval (Weber's law).
    clock_lag : float
        How far one interval of the clock is like the one before: their autocorrelation at lag one.
    wander_percent : float
        Standard deviation of a 1/f wander of the clock's interval, on top, in percent.
    hand_ms : float
        Standard deviation that the hand adds to each note.
    place_ms : float
        Where the player sits against the click; negative is early.
    alpha : float
        Share of the error that each heard click takes back, 0 to 1.
    missed, extra : float
        Share of asked notes not played, and of notes added in between.
    slip_beats : float
        Beats gained (positive) or lost at once in each silence, at some step in it.
    density : float
        Where the part is free: share of the slots that the player plays.

    Raises
    ------
    GiustoError
        ``out_of_range``.

    References
    ----------
    Typical sizes, from memory: clock 2–4 % and hand 5–10 ms at 500 ms (Wing & Kristofferson 1973);
    place −30 to 0 ms for musicians (Repp 2005); alpha .2–.8 (Vorberg & Schulze 2002). Long series are
    1/f and differenced white noise (Gilden, Thornton & Mallon 1995).
    """

    bias_percent: float = 0.0
    clock_percent: float = 1.5
    clock_lag: float = 0.0
    wander_percent: float = 0.0
    hand_ms: float = 8.0
    place_ms: float = -20.0
    alpha: float = 0.4
    missed: float = 0.0
    extra: float = 0.0
    density: float = 0.6
    slip_beats: float = 0.0

    def __post_init__(self) -> None:
        for field in fields(self):
            low, high = RANGES[field.name]
            value = getattr(self, field.name)
            if not low <= value <= high:
                message = f"{field.name} is {value}, allowed is {low:g} to {high:g}"
                raise GiustoError(message, code="out_of_range")


@dataclass(frozen=True, slots=True)
class SimulatedTake:
    """What a simulated player played, and the truth behind it.

    Attributes
    ----------
    onsets_s : array of float, shape (played,)
        Ascending, from the drill's time zero.
    asked : array of int, shape (played,)
        Which note of ``Schedule.playable`` each onset is, −1 for an extra one.
    clock_s : array of float, shape (moments,)
        True error of the clock at each moment of the timeline, without the player's place.
    drift_s, return_s : array of float, shape (silences,)
        What the clock gained over each silence, and where it stood at the returning click.
    """

    onsets_s: FloatArray
    asked: IntArray
    clock_s: FloatArray
    drift_s: FloatArray
    return_s: FloatArray


def simulate(schedule: Schedule, player: SimulatedPlayer, *, seed: int) -> SimulatedTake:
    """Let a simulated player play a drill.

    Parameters
    ----------
    schedule : Schedule
    player : SimulatedPlayer
    seed : int
        0 or above; the same seed gives the same take.

    Returns
    -------
    SimulatedTake

    Notes
    -----
    A note is ``asked + place + A + M`` with ``M = hand · N(0, 1)``; a step is ``A[k+1] = (1 − α)^more ·
    (A[k] − α (A[k] + M[k])) + interval · (1 / (1 + bias) − 1) + cv · interval · N(0, 1)``: a note with a
    click shows its whole error, and ``more`` clicks without one take back a share of A itself; the
    bias acts only in silences. A player who is more
    than half a beat off when the click comes back takes it for the nearest beat: whole beats are
    left out, or played once too often, and the count goes on from the click.
    """
    if seed < 0:
        raise GiustoError(f"seed is {seed}, allowed is 0 or above", code="out_of_range")
    rng = np.random.default_rng(seed)
    line = timeline(schedule)
    missed = 1 - player.density if schedule.is_free else player.missed
    is_played = rng.random(line.of_note.size) >= missed
    hand_s = rng.normal(0.0, player.hand_ms / 1000, line.of_note.size)
    clock_s = _clock(line, player, np.where(is_played, hand_s, np.nan), rng)
    ideal_s = line.time_s[line.of_note] + clock_s[line.of_note] + player.place_ms / 1000
    played_s = ideal_s + hand_s
    left_out, again_s = _slips(line, clock_s, ideal_s)
    caught = np.flatnonzero(is_played & ~left_out)
    extra_s = np.concatenate([_extra(ideal_s[~left_out], player, rng), again_s])
    onsets_s = np.concatenate([played_s[caught], extra_s])
    asked = np.concatenate([caught, np.full(extra_s.size, -1)])
    order = np.argsort(onsets_s, kind="stable")
    return SimulatedTake(
        onsets_s=onsets_s[order],
        asked=asked[order],
        clock_s=clock_s,
        drift_s=clock_s[line.end] - clock_s[line.start],
        return_s=clock_s[line.end],
    )


def _clock(line: Timeline, player: SimulatedPlayer, hand_s: FloatArray, rng: np.random.Generator) -> FloatArray:
    """Return the clock's error at each moment; ``hand_s`` is NaN for a note that is not played."""
    alone = np.where(line.silence >= 0, 1 / (1 + player.bias_percent / 100) - 1, 0.0)
    noise = rng.normal(0.0, 1.0, line.interval_s.size) * player.clock_percent / 100
    if player.clock_lag:
        noise = carried(noise, player.clock_lag)
    if player.wander_percent:
        noise += one_over_f(line.interval_s.size, rng) * player.wander_percent / 100
    step_s = line.interval_s * (alone + noise)
    shown_s = np.full(len(line), np.nan)
    shown_s[line.of_note] = hand_s
    shown = (line.on_click & np.isfinite(shown_s))[:-1]
    if player.slip_beats:
        for first, last in zip(line.start.tolist(), line.end.tolist(), strict=True):
            at = int(rng.integers(first, last))
            step_s[at] -= player.slip_beats * line.beat_s[at]
    keep = (1 - player.alpha) ** line.clicks
    taken_s = np.where(shown, player.alpha * (1 - player.alpha) ** (line.clicks - shown) * shown_s[:-1], 0.0)
    step_s = step_s - taken_s
    clock_s = np.zeros(len(line))
    error_s = 0.0
    back = set(returns(line).tolist())
    for k, (kept, gained_s) in enumerate(zip(keep.tolist(), step_s.tolist(), strict=True), start=1):
        error_s = kept * error_s + gained_s
        clock_s[k] = error_s
        if k in back:  # the click is taken for the nearest beat
            error_s -= round(error_s / line.beat_s[k]) * line.beat_s[k]
    return clock_s


def _slips(line: Timeline, clock_s: FloatArray, ideal_s: FloatArray) -> tuple[BoolArray, FloatArray]:
    """Return which notes whole lost beats leave out, and when notes are played that whole gained beats add."""
    left_out = np.zeros(ideal_s.size, dtype=bool)
    again = [np.empty(0)]
    slot_s = float(np.min(np.diff(line.time_s[line.of_note]), initial=4.0))
    for moment in returns(line).tolist():
        after = int(np.searchsorted(line.of_note, moment, side="right"))
        if after == ideal_s.size or abs(clock_s[moment]) <= line.beat_s[moment] / 2:
            continue
        noticed_s = line.time_s[moment] + REACTION_S
        left_out[:after] |= ideal_s[:after] > noticed_s
        counted_on_s = ideal_s[after:] - clock_s[line.of_note[after:]] + clock_s[moment]
        again.append(counted_on_s[counted_on_s < noticed_s])
        kept_s = np.concatenate([ideal_s[:after][~left_out[:after]], again[-1]])
        left_out[after:] |= ideal_s[after:] < np.max(kept_s, initial=0.0) + slot_s / 2
    return left_out, np.concatenate(again)


def carried(noise: FloatArray, lag: float) -> FloatArray:
    """Return noise of which each value keeps a share of the one before, as large as it was."""
    fresh = noise * np.r_[1.0, np.full(noise.size - 1, np.sqrt(1 - lag**2))]
    found: FloatArray = scipy.signal.lfilter([1.0], [1.0, -lag], fresh)
    return found


def one_over_f(size: int, rng: np.random.Generator) -> FloatArray:
    """Return noise whose power falls as 1/f, with a standard deviation of 1.

    White noise, its spectrum divided by the root of the frequency; the lowest is one turn in twice
    the length, so that no trend is taken out.
    """
    padded = 2 * max(size, 2)
    spectrum = np.fft.rfft(rng.normal(0.0, 1.0, padded))
    frequency = np.arange(spectrum.size, dtype=np.float64)
    frequency[0] = 1.0
    shaped = np.fft.irfft(spectrum / np.sqrt(frequency), padded)
    noise: FloatArray = (shaped / shaped.std())[:size]
    return noise


def _extra(ideal_s: FloatArray, player: SimulatedPlayer, rng: np.random.Generator) -> FloatArray:
    if ideal_s.size < 2:
        return np.empty(0)
    after = np.flatnonzero(rng.random(ideal_s.size - 1) < player.extra)
    return ideal_s[after] + rng.random(after.size) * np.diff(ideal_s)[after]
