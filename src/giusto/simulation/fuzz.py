"""Odd takes of any drill: what the core must answer with a reading, or with one of its own errors."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, is_dataclass
from fractions import Fraction
from math import isfinite
from typing import Any

import numpy as np

from giusto.arrays import FloatArray
from giusto.drill import Drill, position, validate
from giusto.errors import GiustoError
from giusto.notes.clock_line import fit_clocks
from giusto.practice.judge import judge
from giusto.reading import analyse, parse
from giusto.schedule import Schedule, schedule
from giusto.simulation.player import SimulatedPlayer, SimulatedTake, simulate

SHORT_S = 3.0


@dataclass(frozen=True, slots=True)
class Case:
    """A drill and an odd take of it, or why the core refused one of them."""

    number: int
    kind: str
    drill: Drill
    onsets_s: FloatArray
    refusal: str = ""


def case(number: int, *, seed: int) -> Case:
    """Return a case, read, judged and written; what is no error of ours comes through as it is.

    Parameters
    ----------
    number : int
        Which case; its kind of oddity goes round.
    seed : int

    Raises
    ------
    Exception
        Whatever the core raises beside ``GiustoError``; AssertionError for a figure that is no number.
    """
    rng = np.random.default_rng([seed, number])
    drill, kind = any_drill(rng), KINDS[number % len(KINDS)]
    plan = schedule(drill)
    onsets_s = odd_take(plan, kind, rng)
    refusal = ""
    try:
        reading = analyse(plan, onsets_s).reading
        check_finite(reading)
        check_finite(judge(plan, parse(reading.plain())))
    except GiustoError as error:
        refusal = error.code
    return Case(number, kind, drill, onsets_s, refusal)


def any_drill(rng: np.random.Generator) -> Drill:
    """Return a drill with any of its fields in use, up to nine beats and twenty cycles."""
    beats, grid = int(rng.integers(1, 10)), int(rng.integers(1, 7))

    def places(parts: int, most: int = 6) -> list[str]:
        slots = rng.choice(beats * parts, size=int(rng.integers(1, min(most, beats * parts) + 1)), replace=False)
        return [position.write(Fraction(int(slot), parts)) for slot in sorted(slots)]

    few = int(rng.integers(1, 4))
    silence: list[Any] = [
        None,
        {"kind": "fixed", "heard": few, "silent": int(rng.integers(1, 5))},
        {"kind": "growing", "heard": 1, "silent": 1, "step": 1, "max": few + 1},
        {"kind": "random", "unit": "beat", "probability": 0.4, "longest": 4, "seed": few},
        {"kind": "random", "unit": "cycle", "probability": 0.5, "longest": few, "seed": few},
    ]
    turns = [{"cycles": few, "at": places(grid)}, {"cycles": 1, "at": places(grid)}]
    play: list[Any] = ["grid", "grid", "free", places(grid), turns]
    steps = {"every_cycles": few, "by": [2, -2, "notch"][few - 1], "to": [200, 20, 90][few - 1]}
    tempo: dict[str, Any] = {"bpm": float(rng.integers(30, 200))}
    changing, swings = rng.random() < 0.25, rng.random() < 0.15
    return validate(
        {
            "giusto": "drill/3" if swings else "drill/2" if changing else "drill/1",
            "tempo": tempo | ({"steps": steps} if changing else {}),
            "cycle": {"beats": beats},
            "clicks": {
                "on": [str(beat + 1) for beat in range(beats)] if rng.random() < 0.5 else places(4, 4),
                "every": int(rng.integers(1, 4)),
                "silence": silence[int(rng.integers(len(silence)))],
                "shift": {"every_cycles": 2, "by": "1/4"} if rng.random() < 0.15 else None,
                "subdivide": int(rng.integers(1, 4)),
                **({"swing": round(float(rng.uniform(1, 3)), 2)} if swings else {}),
            },
            "part": {"grid": grid, "play": play[int(rng.integers(len(play)))]},
            "count_in": int(rng.integers(0, 3)),
            "cycles": int(rng.integers(1, 21)),
            "close": int(rng.integers(0, 3)),
        }
    )


def odd_take(plan: Schedule, kind: str, rng: np.random.Generator) -> FloatArray:
    """Return the onsets of an odd take, ascending."""
    player = SimulatedPlayer(
        bias_percent=float(rng.normal(0, 3)),
        clock_percent=float(rng.uniform(0.5, 6)),
        hand_ms=float(rng.uniform(2, 60)),
        alpha=float(rng.uniform(0, 1)),
        missed=float(rng.choice([0.0, 0.1, 0.5])),
        extra=float(rng.choice([0.0, 0.1, 0.5])),
    )
    take = simulate(plan, player, seed=int(rng.integers(2**31)))
    found: FloatArray = ODD[kind](plan, take, rng) if kind in ODD else take.onsets_s
    ascending: FloatArray = np.sort(found)
    return ascending


def _lost_slot(plan: Schedule, take: SimulatedTake, rng: np.random.Generator) -> FloatArray:
    """Leave out one slot of the beat but for its first note."""
    if not take.asked.size:
        return take.onsets_s
    slot = plan.playable.offset[np.maximum(take.asked, 0)] % plan.ticks_per_beat
    odd = slot == rng.choice(np.unique(slot))
    return np.append(take.onsets_s[~odd], take.onsets_s[odd][:1])


def _doubles(plan: Schedule, take: SimulatedTake, rng: np.random.Generator) -> FloatArray:
    """Strike each of a hundred notes twice, at once or a flam apart."""
    some = take.onsets_s[:100]
    twice: FloatArray = np.repeat(some, 2) + np.tile([0.0, rng.choice([0.0, 0.03])], some.size)
    return twice


def _cut(plan: Schedule, take: SimulatedTake, rng: np.random.Generator) -> FloatArray:
    """Stop in the middle of a silence."""
    if not plan.silences:
        return take.onsets_s
    silence = plan.silences[int(rng.integers(len(plan.silences)))]
    stop_s = float(plan.seconds((silence.start_tick + silence.end_tick) // 2))
    return take.onsets_s[take.onsets_s < stop_s]


def _random(plan: Schedule, take: SimulatedTake, rng: np.random.Generator) -> FloatArray:
    return rng.uniform(-1.0, float(plan.seconds(plan.end_tick)) + 1, int(rng.integers(1, 200)))


def _same(plan: Schedule, take: SimulatedTake, rng: np.random.Generator) -> FloatArray:
    return np.full(int(rng.integers(1, 120)), rng.uniform(0, float(plan.seconds(plan.end_tick))))


ODD: dict[str, Callable[[Schedule, SimulatedTake, np.random.Generator], FloatArray]] = {
    "slots": _lost_slot,
    "lone": lambda plan, take, rng: take.onsets_s[: int(rng.integers(0, 6))],
    "doubles": _doubles,
    "crossing": lambda plan, take, rng: _stumbled(take.onsets_s, rng),
    "short": lambda plan, take, rng: take.onsets_s[take.onsets_s < SHORT_S],
    "cut": _cut,
    "random": _random,
    "none": lambda plan, take, rng: take.onsets_s[:0],
    "same": _same,
    "stretched": lambda plan, take, rng: take.onsets_s * rng.uniform(0.5, 2.0),
}
KINDS = ("loose", *ODD)


def _stumbled(onsets_s: FloatArray, rng: np.random.Generator) -> FloatArray:
    """Return onsets as a page's clock stamps them while the sound stumbles, brought back by its pairs."""
    if onsets_s.size < 2:
        return onsets_s
    page_ms = np.arange(0.0, 1000 * (float(onsets_s[-1]) + 2), 100.0)
    behind_s = np.where(page_ms > 1000 * float(rng.choice(onsets_s)), float(rng.uniform(-0.4, 0.4)), 0.0)
    pairs = np.column_stack([np.maximum(page_ms / 1000 - behind_s, 0.0) + 0.5, page_ms])
    return fit_clocks(pairs).audio_s(1000 * onsets_s) - 0.5


def check_finite(found: Any, where: str = "") -> None:
    """Fail where a figure of a record is no finite number."""
    if is_dataclass(found):
        for field in fields(found):
            check_finite(getattr(found, field.name), f"{where}.{field.name}")
    elif isinstance(found, list | tuple):
        for index, item in enumerate(found):
            check_finite(item, f"{where}[{index}]")
    elif isinstance(found, float) and not isfinite(found):
        raise AssertionError(f"{where.strip('.')} is {found}")
