"""Where on its ladder a player stands: replayed from the attempts, by the rule exactly as it is worded.

Nothing is stored but what can be made anew: who corrects or deletes an attempt corrects all that came of it.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from giusto.drill import Drill
from giusto.practice.ladder.attempts_csv import Attempt
from giusto.practice.ladder.chance import Chance
from giusto.practice.ladder.file import Ladder
from giusto.practice.ladder.rules.rule import Needs
from giusto.practice.ladder.state import FoundEdge, State, Why


@dataclass(frozen=True, slots=True)
class Step:
    """What to play now, and why: ``step/1``.

    Attributes
    ----------
    rung : int
        From 1.
    value : float or None
        Bpm, cycles or slots.
    secure : int
        The highest rung passed, 0 if none.
    needs : dict or None
        What passes the rung, and how much of it is there; None where today asks for nothing more.
    why : Why
    done : bool
    drill : Drill
    chance : Chance or None
        Of a clean attempt on the rung, under the rule ``band``.
    ended : int
        The rung where the last day ended.
    away : int
        Full days without an attempt before this one.
    edge : FoundEdge or None
        While its nights must pass.
    offered : int or None
        The rung above, offered as a double step where the last attempts were easy; never taken unasked.
    """

    rung: int
    value: float | None
    secure: int
    needs: Needs
    why: Why
    done: bool
    drill: Drill
    chance: Chance | None = None
    ended: int = 1
    away: int = 0
    edge: FoundEdge | None = None
    offered: int | None = None

    def plain(self) -> dict[str, Any]:
        """Return the step as the file has it."""
        value = self.value
        found: dict[str, Any] = {
            "giusto": "step/1",
            "rung": self.rung,
            "value": int(value) if value is not None and value == int(value) else value,
            "secure": self.secure,
            "needs": self.needs,
            "why": self.why.value,
            "done": self.done,
            "drill": self.drill.plain(),
        }
        if self.chance:
            found["chance"] = {"estimate": self.chance.estimate, "ci95": list(self.chance.ci95)}
        return found


def next_step(ladder: Ladder, attempts: Sequence[Attempt], *, at: datetime, off: bool = False) -> Step:
    """Return what to play at a moment.

    Parameters
    ----------
    ladder : Ladder
    attempts : sequence of Attempt
        Ascending; those after the moment are not looked at.
    at : datetime
        With its offset; its written date is the day.
    off : bool
        Whether that day is an off day from now on; what was made on it before counts as usual.

    Returns
    -------
    Step
    """
    return step_from(ladder, climbed(ladder, (attempt for attempt in attempts if attempt.at <= at)), at=at, off=off)


def climbed(ladder: Ladder, attempts: Iterable[Attempt], state: State | None = None) -> State:
    """Return the state after attempts, ascending: from the bottom, or on from a state that earlier ones led to."""
    rule, terms = ladder.rule, ladder.terms
    state = state or State()
    for attempt in attempts:
        state = rule.begin_day(state, attempt.day, terms)
        if attempt.off and not state.is_off:
            state = rule.begin_off(state)
        state = rule.count(state, attempt, terms)
    return state


def secure_course(ladder: Ladder, attempts: Iterable[Attempt]) -> list[int]:
    """Return what was secure after each of the attempts, ascending; it never falls."""
    state, found = State(), []
    for attempt in attempts:
        state = climbed(ladder, [attempt], state)
        found.append(state.secure)
    return found


def step_from(ladder: Ladder, state: State, *, at: datetime, off: bool = False) -> Step:
    """Return what to play at a moment, from the state that all attempts before it led to."""
    rule, terms = ladder.rule, ladder.terms
    state = rule.begin_day(state, at.date(), terms)
    if off and not state.is_off:
        state = rule.begin_off(state)
    state = rule.settled(state, terms)
    return Step(
        rung=state.rung,
        value=ladder.values[state.rung - 1],
        secure=state.secure,
        needs=rule.needs(state),
        why=state.why,
        done=state.done,
        drill=ladder.drills[state.rung - 1],
        chance=rule.chance(state, terms),
        ended=state.ended,
        away=state.away,
        edge=state.edge,
        offered=rule.offered(state, terms),
    )
