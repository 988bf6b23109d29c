"""As streak, with a goal for each week."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from giusto.drill.file import MOST_CYCLES
from giusto.errors import Fault
from giusto.practice.ladder.rules.rule import InARow
from giusto.practice.ladder.state import State, Terms, Why

BY_NUMBERS = ("tempo", "silence")  # what can be so much higher in a week


class Week(InARow):
    """As streak, but no further in a week than ``by`` above what was secure when it began."""

    kind: Literal["week"]
    by: Annotated[float, Field(gt=0, le=MOST_CYCLES)]

    def faults(self, what: str) -> Iterator[Fault]:
        """Yield a fault where what varies is no number."""
        if what not in BY_NUMBERS:
            yield Fault("rule.kind", 'is "week", allowed only where vary.what is tempo or silence', "rule")

    def begin_week(self, state: State, terms: Terms) -> State:
        """Return the state with the highest rung that its week allows."""
        week = state.day.isocalendar()[:2] if state.day else state.week
        if week == state.week:
            return state
        values = [float(value or 0) for value in terms.values]
        wanted = values[max(state.secure, 1) - 1] + self.by
        top = next((rung for rung, value in enumerate(values, start=1) if value >= wanted - 1e-9), terms.last)
        return state.but(week=week, week_top=top)

    def top(self, state: State, terms: Terms) -> int:
        """Return the highest rung that may be risen to now."""
        return min(super().top(state, terms), state.week_top)

    def kept_by(self, state: State) -> Why:
        """Return why a rung that was passed is not left today."""
        return Why.OFF_DAY if state.is_off and state.rung >= state.ended else Why.WEEK_REACHED
