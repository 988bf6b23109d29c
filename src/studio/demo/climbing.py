"""Her ladder: two bars alone, over eight weeks with a fall, an off day and nine days away."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from giusto.practice.ladder import ladder_of
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from studio.accounts.models import Player
from studio.demo.playing import DemoTake, play
from studio.drills.shelf import shelf
from studio.exercises.actions import set_off_day
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.ladders.standing import standings
from studio.takes.models import Take

FIRST_SEED = 7001
BETWEEN = timedelta(minutes=3)
AWAY = range(17, 27)  # days before the last one: nothing is played
OFF_DAY = 12  # days before the last one
# Her skill: the tempo below which she holds her time, in the first week and more with each; less after the break.
SKILL_BPM, A_WEEK_BPM, FORGOTTEN_BPM = 76.0, 3.0, 3.0
LEAN_A_BPM = 0.16  # percent that she rushes for each bpm above her skill


@dataclass(frozen=True, slots=True)
class Climb:
    """A ladder of hers: its file, on which days of the week it is played, and how many takes."""

    name: str
    slug: str
    changes: dict[str, Any]
    days: tuple[int, ...]
    takes: int


CLIMBS = (
    Climb(
        "Two bars alone, in fours",
        "two-heard-two-silent",
        {
            "vary": {"what": "tempo", "from": 72, "to": 112, "by": 4},
            "rule": {"kind": "streak", "clean": 3},
            "next_day": {"back": 1},
        },
        (0, 1, 3, 5),
        4,
    ),
)


def climb(player: Player, last: datetime, weeks: int) -> int:
    """Let her climb up to an evening; return how many takes that made."""
    ladders = [start_ladder(player=player, ladder=ladder_of(_plain(one))) for one in CLIMBS]
    return sum(1 for _ in _takes(player, list(zip(CLIMBS, ladders, strict=True)), last, weeks))


def _plain(one: Climb) -> dict[str, Any]:
    drill = shelf()[one.slug].drill.plain()
    return {"giusto": "ladder/1", "name": one.name, "drill": drill, **one.changes}


def _takes(player: Player, climbs: list[tuple[Climb, Ladder]], last: datetime, weeks: int) -> Iterator[Take]:
    seed = FIRST_SEED
    for day in range(7 * weeks - 1, -1, -1):
        if day in AWAY:
            continue
        evening = last - timedelta(days=day) + timedelta(minutes=20)
        if day == OFF_DAY:
            set_off_day(player=player, at=evening, is_off=True)
        for one, ladder in climbs:
            if (weekday := (7 * weeks - 1 - day) % 7) not in one.days:
                continue
            for number in range(one.takes):
                at = evening + number * BETWEEN
                step = standings([ladder], at)[0].step
                learner = _learner(step.drill.tempo.bpm, day, weekday, weeks, seed)
                yield play(player, DemoTake(at, ladder.exercise.origin, step.drill, learner, seed))
                seed += 1


def _learner(bpm: float, day: int, weekday: int, weeks: int, seed: int) -> SimulatedPlayer:
    """Return how she plays at a tempo: in time up to her skill, rushing above it."""
    week = weeks - 1 - day / 7
    skill = SKILL_BPM + A_WEEK_BPM * week - (FORGOTTEN_BPM if day < AWAY.start else 0)
    wobble = ((seed * 37) % 11 - 5) / 5
    above = max(bpm - skill, 0.0)
    return SimulatedPlayer(
        bias_percent=round(min(LEAN_A_BPM * above, 2.0) + 0.05 * wobble, 2),
        clock_percent=round(0.55 + 0.02 * above, 2),
        hand_ms=5.0,
        place_ms=round(-18 + 3 * wobble, 1),
        alpha=0.5,
    )
