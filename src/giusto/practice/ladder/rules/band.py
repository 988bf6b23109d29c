"""The rung whose chance of a clean attempt lies in a band: mostly right, a miss now and then."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from giusto.errors import Fault
from giusto.practice.ladder.attempts_csv import Attempt
from giusto.practice.ladder.chance import Chance, Chances
from giusto.practice.ladder.rules.rule import Fall, Needs, Rule
from giusto.practice.ladder.state import State, Terms, Why


class Band(Rule):
    """Keeps the chance of a clean attempt inside a band; it passes no rung, and falls by the chance alone."""

    kind: Literal["band"]
    low: Annotated[float, Field(gt=0, lt=1)]
    high: Annotated[float, Field(gt=0, lt=1)]
    usual_fall: ClassVar[Fall | None] = None
    usual_back: ClassVar[int] = 0
    offers: ClassVar[bool] = False

    def faults(self, what: str) -> Iterator[Fault]:
        """Yield a fault where the band is upside down."""
        if self.low >= self.high:
            yield Fault("rule.high", f"is {self.high:g}, allowed is more than rule.low, {self.low:g}", "range")

    def usual(self, state: State) -> Why:
        """Return the reason that the rule itself gives."""
        return Why.BAND

    def ended_on(self, state: State, terms: Terms) -> int:
        """Return the rung that the last day's attempts led to."""
        return self._chosen(state, terms, terms.last)

    def begin_again(self, state: State, terms: Terms) -> State:
        """Return the state as it is: no day begins below."""
        return state.but(why=Why.BAND)

    def noted(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state with what the attempt tells of every rung."""
        before = state.last[-1].day if state.last else attempt.day
        belief = Chances(terms.last).after(state.belief, attempt, nights=(attempt.day - before).days)
        return super().noted(state.but(belief=belief), attempt, terms)

    def counted(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state on the attempt's rung: which is next is chosen once it is asked for."""
        return state.but(why=Why.BAND)

    def cleaned(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state as it is: no single attempt passes a rung."""
        return state

    def settled(self, state: State, terms: Terms) -> State:
        """Return the state on the rung that most likely has its chance in the band."""
        return state.but(rung=self._chosen(state, terms, self.top(state, terms)))

    def wanted(self, state: State) -> Needs:
        """Return nothing: one plays there as often as one likes."""
        return None

    def chance(self, state: State, terms: Terms) -> Chance | None:
        """Return the chance on the rung."""
        return Chances(terms.last).of(state.belief, state.rung)

    def _chosen(self, state: State, terms: Terms, most: int) -> int:
        if state.belief is None:
            return state.rung
        return Chances(terms.last).rung_in(state.belief, self.low, self.high, now=state.last[-1].rung, most=most)
