"""Up until an attempt that isn't clean, one back, and no rise until it was slept on."""

from datetime import timedelta
from typing import ClassVar, Literal

from giusto.practice.ladder.rules.rule import Count, Fall, InARow, Needs
from giusto.practice.ladder.state import FoundEdge, State, Terms, Why


class Edge(InARow):
    """As streak, until an attempt that isn't clean; then no rise until so many nights have passed."""

    kind: Literal["edge"]
    nights: Count
    by_rate: ClassVar[bool] = True
    usual_fall: ClassVar[Fall | None] = None  # the edge takes its place, whatever the file says

    def usual(self, state: State) -> Why:
        """Return the reason that the rule itself gives."""
        return Why.EDGE if state.edge else Why.STREAK

    def begin_again(self, state: State, terms: Terms) -> State:
        """Return the state at what is secure once the nights have passed; until then where it is."""
        if not state.edge or not state.day:
            return super().begin_again(state, terms)
        if state.day < state.edge.until:
            return state.but(why=Why.EDGE)
        secure = max(1, state.secure)
        return state.at(secure, edge=None, ended=secure, why=Why.OVERNIGHT)

    def passing(self, state: State, terms: Terms) -> State:
        """Return the state with its rung passed: below an edge it becomes secure and is not left."""
        if not state.edge or state.rung == terms.last:
            return super().passing(state, terms)
        return state.passed().but(kept=Why.EDGE, why=Why.EDGE)

    def missed(self, state: State, terms: Terms) -> State:
        """Return the state one below: the first attempt that isn't clean finds the edge."""
        if not state.edge and state.day:
            until = state.day + timedelta(days=self.nights)
            state = state.but(edge=FoundEdge(state.rung, state.day, until))
        return state.at(max(1, state.rung - 1), why=Why.EDGE)

    def wanted(self, state: State) -> Needs:
        """Return how many are asked, and there; nothing more on a rung that is secure below the edge."""
        return None if state.edge and state.rung <= state.secure else super().wanted(state)
