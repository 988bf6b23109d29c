"""Simulated learners on ladders: rising skill, forgetting, off days; each school's course over months."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from math import exp
from typing import Any

import numpy as np

from giusto.practice.ladder import Attempt, Ladder, State, Step, climbed, ladder_of, step_from

# The schools, each with the usual values (all common practice).
SCHOOLS: dict[str, dict[str, Any]] = {
    "three clean in a row": {"rule": {"kind": "streak", "clean": 3}},
    "four clean, slower falls": {"rule": {"kind": "streak", "clean": 4}, "fall": {"after": 2, "by": 1}},
    "half an hour a tempo": {"rule": {"kind": "stay", "minutes": 30}},
    "to the edge, one night": {"rule": {"kind": "edge", "clean": 4, "nights": 1}},
    "five a week": {"rule": {"kind": "week", "clean": 3, "by": 5}},
    "mostly right": {"rule": {"kind": "band", "low": 0.7, "high": 0.85}},
}
FROM_BPM, TO_BPM, BY_BPM = 60, 100, 4
FIRST_DAY = datetime(2026, 1, 5, 18, tzinfo=UTC)  # a Monday
WEEK = (True, True, False, True, True, True, False)  # ours: five days of seven
MOST_DAYS, ATTEMPTS_A_DAY, MINUTES = 200, 12, 2.0
OFF_DAY_CHANCE = 0.08


@dataclass(frozen=True, slots=True)
class Learner:
    """How a learner comes on; all in rungs. Ours.

    Attributes
    ----------
    skill : float
        The rung that is clean every second time, at first.
    slope : float
        Rungs over which the chance falls from .73 to .5.
    gain : float
        More of it by an attempt within two rungs of the skill; less the further off it is.
    forgets : float
        Less of it by each day without practice.
    off_loss : float
        Less of it on an off day.
    """

    skill: float = 2.5
    slope: float = 0.8
    gain: float = 0.035
    forgets: float = 0.08
    off_loss: float = 1.0


@dataclass(frozen=True, slots=True)
class LearnerCourse:
    """What came of a ladder.

    Attributes
    ----------
    share_clean : float
        Of the attempts.
    days : int or None
        From the first to the goal, both counted; None where it was not reached in 200 days. Under ``band`` until the
        last rung is asked.
    worst_stall : int
        Most days running without a rung more secure; under ``band``, which secures none, without a higher one asked.
    """

    share_clean: float
    days: int | None
    worst_stall: int


def climb(ladder: Ladder, learner: Learner, *, seed: int) -> LearnerCourse:
    """Let a learner climb a ladder, always as it asks, and return what came of it."""
    rng = np.random.default_rng(seed)
    skill, state, cleans = learner.skill, State(), list[bool]()
    secure, risen, worst = 0, 0, 0
    for day in range(MOST_DAYS):
        at = FIRST_DAY + timedelta(days=day)
        if not WEEK[day % len(WEEK)]:
            skill -= learner.forgets
            continue
        is_off = bool(rng.random() < OFF_DAY_CHANCE)
        for number in range(ATTEMPTS_A_DAY):
            now = at + timedelta(minutes=4 * number)
            step = step_from(ladder, state, at=now, off=is_off)
            if step.done or _is_there(ladder, step):
                return LearnerCourse(_share(cleans), day + 1, max(worst, day - risen))
            if step.needs is None and number and ladder.rule.kind != "band":
                break  # today asks for nothing more
            chance = 1 / (1 + exp((step.rung - skill + learner.off_loss * is_off) / learner.slope))
            cleans.append(bool(rng.random() < chance))
            state = climbed(ladder, [Attempt(now, step.rung, cleans[-1], MINUTES, is_off)], state)
            skill += learner.gain * exp(-max(abs(step.rung - skill) - 2, 0))
        step = step_from(ladder, state, at=at + timedelta(hours=2), off=is_off)
        risen_to = step.rung if ladder.rule.kind == "band" else step.secure
        if risen_to > secure:
            worst, secure, risen = max(worst, day - risen), risen_to, day
    return LearnerCourse(_share(cleans), None, max(worst, MOST_DAYS - 1 - risen))


def schools(*, seed: int, learners: int) -> Iterator[tuple[str, list[LearnerCourse]]]:
    """Yield what came of each school for the same learners, who differ in how fast they come on."""
    for name, rule in SCHOOLS.items():
        vary = {"what": "tempo", "from": FROM_BPM, "to": TO_BPM, "by": BY_BPM}
        ladder = ladder_of({"giusto": "ladder/1", "drill": _DRILL, "vary": vary, **rule})
        found = []
        for index in range(learners):
            gain = float(np.random.default_rng([seed, index]).uniform(0.015, 0.04))
            found.append(climb(ladder, Learner(gain=gain), seed=1000 * seed + index))
        yield name, found


_DRILL = {
    "giusto": "drill/1",
    "tempo": {"bpm": FROM_BPM},
    "cycle": {"beats": 4},
    "clicks": {"on": ["1", "2", "3", "4"]},
    "part": {"grid": 1},
    "cycles": 8,
}


def _is_there(ladder: Ladder, step: Step) -> bool:
    """Whether the last rung is asked under the rule that never passes one."""
    return ladder.rule.kind == "band" and step.rung == len(ladder.values)


def _share(cleans: list[bool]) -> float:
    return float(np.mean(cleans))
