"""Stories: a player, a drill, and what a teacher who watched would say; drawn from a grammar, without end."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from giusto.arrays import FloatArray
from giusto.drill import validate
from giusto.schedule import Schedule, schedule
from giusto.simulation.player import SimulatedPlayer, simulate


@dataclass(frozen=True, slots=True)
class Story:
    """A take, and what may be said of it.

    Attributes
    ----------
    title : str
    plan : Schedule
    onsets_s : array of float, shape (notes,)
    verdicts : frozenset of str
        Codes of ``advice/2`` that a teacher would agree with.
    finding : str
        One that must be among the findings; ``""`` for none.
    """

    title: str
    plan: Schedule
    onsets_s: FloatArray
    verdicts: frozenset[str]
    finding: str = ""


def story(seed: int) -> Story:
    """Return a story; another seed tells another one."""
    rng = np.random.default_rng([seed, 19])
    return PLOTS[int(rng.integers(len(PLOTS)))](rng)


def _drill(rng: np.random.Generator, **changes: Any) -> Schedule:
    """Return two heard and some silent cycles at some tempo, in two notes to the beat or one."""
    bpm = float(rng.choice([72, 84, 96, 108]))
    silent = int(rng.choice([1, 2]))
    clicks: dict[str, Any] = {"on": ["1", "2", "3", "4"]}
    if changes.get("silent", silent):
        clicks["silence"] = {"kind": "fixed", "heard": 2, "silent": changes.get("silent", silent)}
    turns = 2 + changes.get("silent", silent)
    return schedule(
        validate(
            {
                "giusto": changes.get("giusto", "drill/1"),
                "tempo": {"bpm": bpm},
                "cycle": {"beats": 4},
                "clicks": clicks | changes.get("clicks", {}),
                "part": {"grid": int(changes.get("grid", rng.choice([1, 2])))},
                "cycles": turns * 4 if turns > 2 else 16,
                "close": changes.get("close", 1),
            }
        )
    )


def _even(rng: np.random.Generator, **changes: float) -> SimulatedPlayer:
    """Return a player with steady hands and a good clock."""
    usual = {
        "clock_percent": float(rng.uniform(0.3, 0.7)),
        "hand_ms": float(rng.uniform(2.5, 6.0)),
        "alpha": float(rng.uniform(0.3, 0.6)),
        "place_ms": float(rng.uniform(-30, 10)),
    }
    return SimulatedPlayer(**(usual | changes))


def _played(rng: np.random.Generator, plan: Schedule, player: SimulatedPlayer) -> FloatArray:
    return simulate(plan, player, seed=int(rng.integers(2**31))).onsets_s


def _steady(rng: np.random.Generator) -> Story:
    plan = _drill(rng)
    return Story("holds every silence", plan, _played(rng, plan, _even(rng)), frozenset({"held", "edge"}))


def _leans(rng: np.random.Generator) -> Story:
    plan, rushes = _drill(rng, silent=2), bool(rng.integers(2))
    bias = float(rng.uniform(2.0, 4.0)) * (1 if rushes else -1)
    code = "rushed" if rushes else "dragged"
    onsets_s = _played(rng, plan, _even(rng, bias_percent=bias))
    return Story(f"{code} by {abs(bias):.1f} %", plan, onsets_s, frozenset({code}), "narrow" if rushes else "wide")


def _own_tempo(rng: np.random.Generator) -> Story:
    plan = _drill(rng, silent=int(rng.choice([0, 1])))
    share = float(rng.uniform(0.03, 0.06)) * float(rng.choice([-1, 1]))
    onsets_s = _played(rng, plan, _even(rng, alpha=0.0, hand_ms=3.0)) * (1 + share)
    return Story("keeps a tempo of their own", plan, onsets_s, frozenset({"own-tempo"}), "own-tempo")


def _on_another_beat(rng: np.random.Generator) -> Story:
    """Tell of a figure that begins on another beat than the drill's."""
    figures = (["1", "2+1/2", "4"], ["1", "1+1/2", "2", "3", "4"], ["1", "2+1/2", "3+1/2"])
    grid = _drill(rng, silent=int(rng.choice([0, 1])), grid=2).drill.plain()
    figure = figures[int(rng.integers(len(figures)))]
    plan = schedule(validate(grid | {"part": {"grid": 2, "play": figure}}))
    moved_s = _played(rng, plan, _even(rng)) + float(rng.choice([-1, 1])) * plan.beat_s
    inside = moved_s > float(plan.seconds(plan.notes.tick[0])) - 0.2
    return Story("begins on another beat", plan, moved_s[inside], frozenset({"beat-off"}), "beat-off")


def _beside_the_click(rng: np.random.Generator) -> Story:
    plan, side = _drill(rng, silent=0), float(rng.choice([-1, 1]))
    player = _even(rng, place_ms=side * float(rng.uniform(30, 60)))
    return Story(
        "lies beside the click", plan, _played(rng, plan, player), frozenset({"before" if side < 0 else "after"})
    )


def _with_the_click(rng: np.random.Generator) -> Story:
    plan = _drill(rng, silent=0)
    player = _even(rng, place_ms=float(rng.uniform(-6, 6)))
    return Story("lies with the click", plan, _played(rng, plan, player), frozenset({"together"}))


def _loose(rng: np.random.Generator) -> Story:
    plan = _drill(rng, silent=0, grid=2)
    return Story(
        "is loose about it", plan, _played(rng, plan, _even(rng, hand_ms=60.0)), frozenset({"loose"}), "spread"
    )


def _half(rng: np.random.Generator) -> Story:
    plan = _drill(rng, grid=2)
    onsets_s = _played(rng, _as(plan, grid=1), _even(rng))
    return Story("plays half the notes", plan, onsets_s, frozenset({"held", "edge"}), "half")


def _falls_silent(rng: np.random.Generator) -> Story:
    plan = _drill(rng, silent=2)
    onsets_s = _played(rng, plan, _even(rng))
    for silence in plan.silences:
        start_s, end_s = plan.seconds(np.array([silence.start_tick, silence.end_tick])).tolist()
        onsets_s = onsets_s[(onsets_s < start_s + 0.1) | (onsets_s > end_s - 0.15)]
    return Story("falls silent with the click", plan, onsets_s, frozenset({"too-few"}), "stopped-alone")


def _random(rng: np.random.Generator) -> Story:
    plan = _drill(rng, grid=2)
    end_s = float(plan.seconds(plan.end_tick))
    onsets_s = np.sort(rng.uniform(1.0, end_s, len(plan.notes)))
    return Story("hits at random", plan, onsets_s, frozenset({"not-this-drill", "other-part"}))


def _free(rng: np.random.Generator) -> Story:
    clicks: dict[str, Any] = {"on": [], "silence": None}
    plan = _drill(rng, silent=0, giusto="free/1", clicks=clicks, close=0, grid=2)
    change = float(rng.choice([0.0, 0.06, -0.06]))
    onsets_s = _played(rng, plan, _even(rng))
    half = onsets_s.size // 2
    onsets_s[half:] = onsets_s[half] + (onsets_s[half:] - onsets_s[half]) / (1 + change)
    code = "kept" if not change else "quickened" if change > 0 else "slowed"
    return Story(f"{code} without a click", plan, onsets_s, frozenset({code}))


def _as(plan: Schedule, *, grid: int) -> Schedule:
    """Return the schedule of the same drill with other notes to the beat."""
    return schedule(validate(plan.drill.plain() | {"part": {"grid": grid}}))


PLOTS: tuple[Callable[[np.random.Generator], Story], ...] = (
    _steady,
    _leans,
    _own_tempo,
    _on_another_beat,
    _beside_the_click,
    _with_the_click,
    _loose,
    _half,
    _falls_silent,
    _random,
    _free,
)
