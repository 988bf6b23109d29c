"""How true the readings are: simulated players whose truth is known, over a grid of drills.

Every cell of the grid is a drill and a kind of player; each is played some times with a bias of its
own. What a reading says is held against the truth, and the drift also against a smoother that is
told the true pairs and the true sizes.
"""

from __future__ import annotations

import time
import tracemalloc
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import product
from math import sqrt
from typing import Any

import numpy as np

from giusto.drill import validate
from giusto.notes.match import match
from giusto.practice.habit import Habit, habit
from giusto.reading.analyse import analyse
from giusto.reading.earlier import leans_of, prior_of
from giusto.schedule import Schedule, schedule
from giusto.schedule.timeline import timeline
from giusto.simulation.player import SimulatedPlayer, SimulatedTake, simulate
from giusto.timekeeper.take import Sizes, chain
from giusto.timekeeper.track import smooth

TEMPI_BPM = (30, 60, 96, 140, 210)
SILENT_CYCLES = (1, 2, 4, 8, 16)
# Clock in percent, hand in ms, slow wander in percent, missed and extra notes.
HANDS = {
    "steady": {"clock_percent": 0.8, "hand_ms": 4.0},
    "fair": {"clock_percent": 1.5, "hand_ms": 8.0},
    "loose": {"clock_percent": 3.0, "hand_ms": 15.0},
    "holes": {"clock_percent": 1.5, "hand_ms": 8.0, "missed": 0.03, "extra": 0.03},
    "wander": {"clock_percent": 1.5, "hand_ms": 8.0, "wander_percent": 1.0},
}
# Players unlike the model, or at its edge, each with a drill that they would play: tempo, heard, silent, notes a beat.
ODD_HANDS: dict[str, tuple[dict[str, float], tuple[int, int, int, int]]] = {
    "beginner": ({"clock_percent": 4.0, "hand_ms": 20.0}, (72, 1, 1, 1)),
    "holder": ({"clock_percent": 1.5, "hand_ms": 8.0, "alpha": 0.05}, (96, 2, 2, 2)),
    "carried": ({"clock_percent": 1.5, "hand_ms": 8.0, "clock_lag": 0.5}, (96, 2, 2, 2)),
    "1/f": ({"clock_percent": 1.5, "hand_ms": 8.0, "wander_percent": 1.5}, (96, 2, 2, 2)),
}
ODD_BIASES, ODD_TAKES, ODD_CYCLES = (-2.0, -1.0, -0.5, 0.0, 0.0, 0.0, 0.5, 1.0, 2.0), 243, 16
KNOWN_PLAYERS, KNOWN_TAKES = 54, 12
# Bias as a share of the most; the most is 6 %, and less where 0.4 beat would be left behind.
BIASES = (-1.0, -0.5, -0.25, -0.1, 0.0, 0.0, 0.0, 0.1, 0.25, 0.5, 1.0)
MOST_PERCENT, MOST_BEATS, FARTHEST_BEATS = 6.0, 0.4, 0.45
DRIFTS_BEATS = (-2.0, -1.3, -1.0, -0.7, 0.7, 1.0, 1.3, 2.0)  # drift of a long silence in whole beats and more
LOST_BEATS = (-1.0, 1.0)
SLIP_GRIDS, SLIP_SILENT = (1, 2, 4), (8, 16)  # notes a beat, cycles
LONGEST_S = 600  # a drill of the grid is at least three silences, and shorter than this
FIXED_TIMES = 20  # solutions of 200 unknowns
SIZES = (100, 1_000, 10_000, 100_000)  # notes, for the cost; the first is read once before, unmeasured


@dataclass(slots=True)
class Tally:
    """What was counted over the takes of one row of the table."""

    takes: int = 0
    notes: int = 0
    mislabelled: int = 0
    drift_error_ms: list[float] = field(default_factory=list)
    oracle_error_ms: list[float] = field(default_factory=list)
    covered: dict[str, list[bool]] = field(default_factory=dict)
    unbiased_verdicts: list[bool] = field(default_factory=list)
    found: dict[str, list[tuple[float, float]]] = field(default_factory=dict)
    slips_right: list[bool] = field(default_factory=list)

    def add(self, figure: str, truth: float, span: tuple[float, float] | None, estimate: float | None = None) -> None:
        """Note whether a range holds the truth, and what was found; no range, no note."""
        if span is not None:
            self.covered.setdefault(figure, []).append(span[0] <= truth <= span[1])
        if estimate is not None:
            self.found.setdefault(figure, []).append((truth, estimate))

    def share(self, figure: str) -> float:
        """Return how often a figure's range held the truth, in percent."""
        held = self.covered.get(figure, [])
        return 100 * float(np.mean(held)) if held else float("nan")

    @property
    def rmse_ratio(self) -> float:
        """Root mean square error of the drift over that of the oracle."""
        return _rms(self.drift_error_ms) / _rms(self.oracle_error_ms)


@dataclass(frozen=True, slots=True)
class Cost:
    """What reading a take of so many notes costs: processor time, also as times a fixed work, and memory."""

    notes: int
    ms_per_thousand: float
    of_fixed_work: float
    peak_mb: float


def drill_of(bpm: float, silent: int) -> Schedule:
    """Return the drill of a cell: as many heard cycles as fit, at least three silences, eighths."""
    heard = min(max(silent, 1), 2)
    fits = int(LONGEST_S / (60 / bpm * 4 * (heard + silent)))
    turns = min(max(fits, 3), 8)
    plain = {
        "giusto": "drill/1",
        "tempo": {"bpm": bpm},
        "cycle": {"beats": 4},
        "clicks": {"on": ["1", "2", "3", "4"], "silence": {"kind": "fixed", "heard": heard, "silent": silent}},
        "part": {"grid": 2},
        "cycles": turns * (heard + silent),
    }
    return schedule(validate(plain))


def benchmark(
    *,
    seed: int,
    repeats: int = 1,
    hands: Sequence[str] = tuple(HANDS),
    tempi_bpm: Sequence[int] = TEMPI_BPM,
    silent_cycles: Sequence[int] = SILENT_CYCLES,
) -> Iterator[tuple[str, int, Tally]]:
    """Play the grid and yield a tally for each kind of player and length of silence.

    Parameters
    ----------
    seed : int
    repeats : int
        Takes a cell and bias.
    hands : sequence of str
        Kinds of player, keys of ``HANDS``.
    tempi_bpm, silent_cycles : sequence
        The grid.
    """
    for kind, silent in product(hands, silent_cycles):
        tally = Tally()
        for bpm in tempi_bpm:
            plan = drill_of(bpm, silent)
            most = min(MOST_PERCENT, 100 * MOST_BEATS / (4 * silent + 1))
            for index, share in enumerate(BIASES * repeats):
                rng = np.random.default_rng([seed, bpm, silent, index, list(HANDS).index(kind)])
                alpha, place_ms = float(rng.uniform(0.2, 0.8)), float(rng.normal(-20, 15))
                player = SimulatedPlayer(bias_percent=most * share, alpha=alpha, place_ms=place_ms, **HANDS[kind])
                take = simulate(plan, player, seed=int(rng.integers(2**31)))
                if np.max(np.abs(take.return_s)) <= FARTHEST_BEATS * plan.beat_s:
                    _count(tally, plan, player, take)
        yield kind, silent, tally


def odd_hands(*, seed: int, takes: int = ODD_TAKES) -> Iterator[tuple[str, Tally]]:
    """Yield a tally for each player of ``ODD_HANDS``; one who keeps a correction of their own leans by 1 % at most."""
    for kind, (hand, (bpm, heard, silent, grid)) in ODD_HANDS.items():
        silence = {"kind": "fixed", "heard": heard, "silent": silent}
        clicks = {"on": ["1", "2", "3", "4"], "silence": silence}
        plain = {"giusto": "drill/1", "tempo": {"bpm": bpm}, "cycle": {"beats": 4}, "clicks": clicks}
        plan = schedule(validate(plain | {"part": {"grid": grid}, "cycles": ODD_CYCLES}))
        tally = Tally()
        for index in range(takes):
            rng = np.random.default_rng([seed, index, list(ODD_HANDS).index(kind)])
            bias = ODD_BIASES[index % len(ODD_BIASES)] / (2 if "alpha" in hand else 1)
            own = {"alpha": float(rng.uniform(0.2, 0.8)), "place_ms": float(rng.normal(-20, 15)), **hand}
            player = SimulatedPlayer(bias_percent=bias, **own)
            take = simulate(plan, player, seed=int(rng.integers(2**31)))
            if np.max(np.abs(take.return_s)) <= FARTHEST_BEATS * plan.beat_s:
                _count(tally, plan, player, take)
        yield kind, tally


def after_takes(*, seed: int, wander_percent: float, players: int = KNOWN_PLAYERS) -> Tally:
    """Return a tally of players with twelve earlier takes: their next one's tendency, and their habit by then."""
    plan, tally = drill_of(96, 2), Tally()
    for index in range(players):
        rng = np.random.default_rng([seed, index, KNOWN_TAKES])
        bias = ODD_BIASES[index % len(ODD_BIASES)]
        player = SimulatedPlayer(bias_percent=bias, wander_percent=wander_percent, alpha=float(rng.uniform(0.2, 0.8)))
        earlier = [
            analyse(plan, simulate(plan, player, seed=int(rng.integers(2**31))).onsets_s) for _ in range(KNOWN_TAKES)
        ]
        onsets_s = simulate(plan, player, seed=int(rng.integers(2**31))).onsets_s
        last = analyse(plan, onsets_s, prior=prior_of(earlier)).reading
        found = habit([leans_of(take.reading) for take in earlier])
        tally.takes += KNOWN_TAKES + 1
        if last.tendency:
            tally.add("tendency", bias, last.tendency.ci95_percent)
            _note_verdict(tally, bias, last.tendency.verdict)
        if isinstance(found, Habit):
            tally.add("habit", bias, found.ci95_percent)
            _note_verdict(tally, bias, found.verdict)
    return tally


def _note_verdict(tally: Tally, bias_percent: float, verdict: str) -> None:
    if not bias_percent:
        tally.unbiased_verdicts.append(verdict in ("rushing", "dragging"))


def slips(*, seed: int) -> Iterator[tuple[float, Tally]]:
    """Yield a tally for each drift of whole beats and more in a long silence: followed by notes, none is lost."""
    for beats_off in DRIFTS_BEATS:
        tally = Tally()
        for grid, silent, index in product(SLIP_GRIDS, SLIP_SILENT, range(4)):
            plain = drill_of(96, silent).drill.plain() | {"part": {"grid": grid, "play": "grid"}}
            plan = schedule(validate(plain | {"cycles": 3 * (2 + silent)}))
            player = SimulatedPlayer(bias_percent=100 * (1 / (1 + beats_off / (4 * silent + 1)) - 1))
            _count_slips(tally, plan, player, seed * 1000 + index, [0] * len(plan.silences))
        yield beats_off, tally


def lost_beats(*, seed: int) -> Iterator[tuple[float, Tally]]:
    """Yield a tally for whole beats lost or gained at once, by a player of one note a cycle."""
    for beats in LOST_BEATS:
        tally = Tally()
        for silent, index in product(SLIP_SILENT, range(12)):
            plain = drill_of(96, silent).drill.plain() | {"part": {"grid": 1, "play": ["1"]}}
            plan = schedule(validate(plain | {"cycles": 3 * (2 + silent)}))
            player = SimulatedPlayer(slip_beats=beats)
            _count_slips(tally, plan, player, seed * 1000 + index, [round(beats)] * len(plan.silences))
        yield beats, tally


def _count_slips(tally: Tally, plan: Schedule, player: SimulatedPlayer, seed: int, truth: list[int]) -> None:
    take = simulate(plan, player, seed=seed)
    tally.takes += 1
    tally.notes += take.asked.size
    tally.mislabelled += _mislabelled(plan, take)
    silences = analyse(plan, take.onsets_s).reading.silences
    for silence, drift_s, slipped in zip(silences, take.drift_s, truth, strict=True):
        tally.slips_right.append(silence.slip_beats == slipped)
        tally.add("drift", 1000 * float(drift_s), silence.ci95_ms, silence.drift_ms)


def cost(*, seed: int) -> Iterator[Cost]:
    """Yield what reading takes of growing length costs: time without, memory with, a tracer."""
    for notes in SIZES:
        plain: dict[str, Any] = drill_of(120, 2).drill.plain()
        plain |= {"cycles": max(min(notes // 16, 2000), 4), "part": {"grid": 2, "play": "grid"}}
        if notes > 16_000:
            plain["part"]["grid"] = 8
            plain["cycle"] = {"beats": 8, "groups": None}
            plain["clicks"]["on"] = [str(beat + 1) for beat in range(8)]
            plain["cycles"] = notes // 64
        elif notes < 16_000:
            plain["cycles"] = max(notes // 8, 4)
        plan = schedule(validate(plain))
        onsets_s = simulate(plan, SimulatedPlayer(), seed=seed).onsets_s
        if notes == SIZES[0]:
            analyse(plan, onsets_s)
        fixed_s = _fixed_work_s()
        start = time.process_time()
        analyse(plan, onsets_s)
        took_s = time.process_time() - start
        tracemalloc.start()
        analyse(plan, onsets_s)
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        yield Cost(onsets_s.size, 1e6 * took_s / onsets_s.size, took_s / fixed_s, peak / 1e6)


def _fixed_work_s() -> float:
    """Return the processor time of work that never changes, beside which a reading tells the same on any machine."""
    matrix = np.random.default_rng(0).normal(size=(200, 200))
    start = time.process_time()
    for _ in range(FIXED_TIMES):
        np.linalg.solve(matrix, matrix)
    return time.process_time() - start


def _count(tally: Tally, plan: Schedule, player: SimulatedPlayer, take: SimulatedTake) -> None:
    reading = analyse(plan, take.onsets_s).reading
    tally.takes += 1
    tally.notes += take.asked.size
    tally.mislabelled += _mislabelled(plan, take)
    oracle_ms = oracle_drift_ms(plan, player, take)
    for index, silence in enumerate(reading.silences):
        if silence.drift_ms is None:
            continue
        drift_ms, return_ms = 1000 * take.drift_s[index], 1000 * take.return_s[index]
        tally.drift_error_ms.append(silence.drift_ms - drift_ms)
        tally.oracle_error_ms.append(float(oracle_ms[index]) - drift_ms)
        tally.add("drift", drift_ms, silence.ci95_ms)
        tally.add("return", return_ms, silence.return_ci95_ms)
    if reading.tendency:
        tally.add("tendency", player.bias_percent, reading.tendency.ci95_percent)
        _note_verdict(tally, player.bias_percent, reading.tendency.verdict)
    if reading.variability and not player.wander_percent:
        interval_ms = 1000 * plan.beat_s / plan.drill.part.grid
        parts = reading.variability
        strays = player.clock_percent * sqrt((1 + player.clock_lag) / (1 - player.clock_lag))  # in the long run
        tally.add("clock", strays / 100 * interval_ms, parts.clock_ci95_ms, parts.clock_sd_ms)
        tally.add("hand", player.hand_ms, parts.motor_ci95_ms, parts.motor_sd_ms)
    if reading.correction:
        tally.add("alpha", player.alpha, reading.correction.ci95, reading.correction.alpha)


def _mislabelled(plan: Schedule, take: SimulatedTake) -> int:
    found = match(plan, take.onsets_s)
    label = np.full(take.asked.size, -1)
    label[found.played] = found.asked
    return int(np.count_nonzero(label != take.asked))


def oracle_drift_ms(plan: Schedule, player: SimulatedPlayer, take: SimulatedTake) -> np.ndarray:
    """Return the drifts as a smoother finds them that knows the pairs and the sizes."""
    line = timeline(plan)
    real = take.asked >= 0
    error_s = np.full(len(plan.playable), np.nan)
    asked_s = plan.seconds(plan.playable.tick)
    error_s[take.asked[real]] = take.onsets_s[real] - asked_s[take.asked[real]]
    slot = plan.playable.offset % plan.ticks_per_beat
    sizes = Sizes(clock=player.clock_percent / 100, hand_ms=player.hand_ms, alpha=player.alpha)
    known = chain(line, error_s, note_in_beat=slot, beat_s=plan.beat_s)
    return smooth(known, line.start, line.end, sizes=sizes).drift_ms


def _rms(errors: list[float]) -> float:
    return float(np.sqrt(np.mean(np.square(errors)))) if errors else float("nan")
