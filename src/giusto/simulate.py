"""A seeded player whose true clock is known: for tests, demo data and playing without hands.

The player is the two-level timekeeper of Wing and Kristofferson with linear phase correction: a
clock that is corrected by each heard click and drifts when alone, and a hand that adds its own
noise to each note.
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np

from giusto.arrays import FloatArray, IntArray
from giusto.errors import GiustoError
from giusto.schedule import Schedule
from giusto.timeline import Timeline, timeline

# What a player's figures may be: lowest, highest. Ours, wide around the published values.
RANGES: dict[str, tuple[float, float]] = {
    "bias_percent": (-20.0, 20.0),
    "clock_percent": (0.0, 20.0),
    "hand_ms": (0.0, 100.0),
    "place_ms": (-200.0, 200.0),
    "alpha": (0.0, 1.0),
    "missed": (0.0, 0.9),
    "extra": (0.0, 0.9),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Player:
    """How a simulated player plays.

    Parameters
    ----------
    bias_percent : float
        Tempo held in a silence over the tempo asked, minus one; positive rushes.
    clock_percent : float
        Standard deviation of the clock's interval, in percent of that interval (Weber's law).
    hand_ms : float
        Standard deviation that the hand adds to each note.
    place_ms : float
        Where the player sits against the click; negative is early.
    alpha : float
        Share of the error that each heard click takes back, 0 to 1.
    missed, extra : float
        Share of asked notes not played, and of notes added in between.

    Raises
    ------
    GiustoError
        ``out_of_range``.

    References
    ----------
    Typical sizes, from memory: clock 2–4 % and hand 5–10 ms at 500 ms (Wing & Kristofferson 1973);
    place −30 to 0 ms for musicians (Repp 2005); alpha .2–.8 (Vorberg & Schulze 2002).
    """

    bias_percent: float = 0.0
    clock_percent: float = 1.5
    hand_ms: float = 8.0
    place_ms: float = -20.0
    alpha: float = 0.4
    missed: float = 0.0
    extra: float = 0.0

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
        Which asked note each onset is, −1 for an extra one.
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


def simulate(schedule: Schedule, player: Player, *, seed: int) -> SimulatedTake:
    """Let a simulated player play a drill.

    Parameters
    ----------
    schedule : Schedule
    player : Player
    seed : int
        0 or above; the same seed gives the same take.

    Returns
    -------
    SimulatedTake

    Notes
    -----
    ``A[k+1] = (1 − α)^clicks · A[k] + interval · (1 / (1 + bias) − 1) + cv · interval · N(0, 1)``,
    the bias only in silences; a note is ``asked + place + A + hand · N(0, 1)``.
    """
    if seed < 0:
        raise GiustoError(f"seed is {seed}, allowed is 0 or above", code="out_of_range")
    rng = np.random.default_rng(seed)
    line = timeline(schedule)
    clock_s = _clock(line, player, rng)
    ideal_s = line.time_s[line.of_note] + clock_s[line.of_note] + player.place_ms / 1000
    played_s = ideal_s + rng.normal(0.0, player.hand_ms / 1000, ideal_s.size)
    caught = np.flatnonzero(rng.random(ideal_s.size) >= player.missed)
    extra_s = _extra(ideal_s, player, rng)
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


def _clock(line: Timeline, player: Player, rng: np.random.Generator) -> FloatArray:
    alone = np.where(line.silence >= 0, 1 / (1 + player.bias_percent / 100) - 1, 0.0)
    noise = rng.normal(0.0, 1.0, line.interval_s.size) * player.clock_percent / 100
    step_s = line.interval_s * (alone + noise)
    keep = (1 - player.alpha) ** line.clicks
    clock_s = np.zeros(len(line))
    error_s = 0.0
    for k, (kept, gained_s) in enumerate(zip(keep.tolist(), step_s.tolist(), strict=True), start=1):
        error_s = kept * error_s + gained_s
        clock_s[k] = error_s
    return clock_s


def _extra(ideal_s: FloatArray, player: Player, rng: np.random.Generator) -> FloatArray:
    if ideal_s.size < 2:
        return np.empty(0)
    after = np.flatnonzero(rng.random(ideal_s.size - 1) < player.extra)
    return ideal_s[after] + rng.random(after.size) * np.diff(ideal_s)[after]
