"""So many minutes of clean attempts pass a rung, which is kept for the rest of that day."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from giusto.practice.ladder.attempts_csv import Attempt
from giusto.practice.ladder.rules.rule import Fall, Needs, Rule
from giusto.practice.ladder.state import State, Terms, Why


class Stay(Rule):
    """So many minutes of clean attempts pass a rung, which is kept for the rest of that day."""

    kind: Literal["stay"]
    minutes: Annotated[float, Field(gt=0, le=10_000)]
    usual_fall: ClassVar[Fall | None] = None
    usual_back: ClassVar[int] = 0
    offers: ClassVar[bool] = False

    def usual(self, state: State) -> Why:
        """Return the reason that the rule itself gives."""
        return Why.STAY

    def ended_on(self, state: State, terms: Terms) -> int:
        """Return the rung above one that was passed and kept, unless that was on an off day."""
        return state.rung if not state.stayed or state.kept else state.rung + 1

    def cleaned(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state with the minutes added, over days too; the last of them pass the rung."""
        state = state.but(minutes=round(state.minutes + attempt.minutes, 9))
        if state.minutes < self.minutes:
            return state
        state = state.passed()
        if state.rung == terms.last:
            return state.but(done=True, why=Why.DONE)
        is_held = state.is_off and state.rung >= state.ended
        return state.but(stayed=True, minutes=0.0, why=Why.STAYED, kept=Why.OFF_DAY if is_held else None)

    def wanted(self, state: State) -> Needs:
        """Return how many minutes are asked, and there."""
        return {"minutes": _plain(self.minutes), "so_far": _plain(state.minutes)}


def _plain(minutes: float) -> float:
    return int(minutes) if minutes == int(minutes) else minutes
