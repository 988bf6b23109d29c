"""So many clean attempts on a rung pass it, in a row or not, on whatever days."""

from typing import ClassVar, Literal

from giusto.practice.ladder.attempts_csv import Attempt
from giusto.practice.ladder.rules.rule import Count, Fall, Needs, Rule
from giusto.practice.ladder.state import State, Terms, Why


class Total(Rule):
    """So many clean attempts on a rung pass it, in a row or not: none that was made there is lost."""

    kind: Literal["total"]
    clean: Count
    usual_fall: ClassVar[Fall | None] = None
    usual_back: ClassVar[int] = 0

    def usual(self, state: State) -> Why:
        """Return the reason that the rule itself gives."""
        return Why.TOTAL

    def noted(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state with one more on the attempt's rung, where it was clean."""
        totals = list(state.totals or [0] * terms.last)
        totals[attempt.rung - 1] += attempt.clean is True
        return super().noted(state.but(totals=tuple(totals)), attempt, terms)

    def cleaned(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state after a clean attempt: the rung is passed by the last one asked."""
        is_there = _there(state) >= self.clean + state.is_off
        return self.passing(state, terms) if is_there and not state.kept else state

    def wanted(self, state: State) -> Needs:
        """Return how many are asked on the rung, and there; where all are, one more passes it."""
        asked = self.clean + state.is_off
        return {"clean": asked, "so_far": min(_there(state), asked - 1)}


def _there(state: State) -> int:
    return state.totals[state.rung - 1] if state.totals else 0
