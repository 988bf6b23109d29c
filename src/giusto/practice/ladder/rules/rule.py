"""What all schools share: a day begins, an attempt counts, what is needed; each changes what it does otherwise."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator
from datetime import date
from typing import Annotated, ClassVar

from pydantic import BaseModel, ConfigDict, Field
from scipy.special import betainc

from giusto.errors import Fault
from giusto.practice.ladder.attempts_csv import Attempt
from giusto.practice.ladder.chance import Chance
from giusto.practice.ladder.state import ONCE, REMEMBERED, State, Terms, Why

RATE, RATE_SURE = 0.75, 0.8  # by the contract: of attempts that are clean, and how likely that must be
BREAK_DAYS, MOST_MORE_BACK = 7, 4  # by the contract of ladder/1: a rung more back for each week away
Count = Annotated[int, Field(ge=1, le=100)]
Needs = dict[str, float] | None


class LadderPart(BaseModel):
    """What all parts of a ladder's file share: no unknown fields, no coercion, no change afterwards."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, allow_inf_nan=False)


class Fall(LadderPart):
    """So many attempts in a row that aren't clean: down."""

    after: Count
    by: Count


class Rule(LadderPart):
    """By which attempts one climbs. The fields of a school are its file's; all that it does is pure.

    Attributes
    ----------
    kind : str
        As in the file.
    usual_fall : Fall or None
        Where the file says nothing of it; None for never.
    usual_back : int
        How far below a new day begins, where the file says nothing of it.
    offers : bool
        Whether a double step is offered where the last attempts were easy.
    """

    kind: str
    usual_fall: ClassVar[Fall | None] = Fall(after=1, by=1)
    usual_back: ClassVar[int] = 1
    offers: ClassVar[bool] = True

    def faults(self, what: str) -> Iterator[Fault]:
        """Yield what breaks a rule between its fields, or with what the ladder varies."""
        yield from ()

    def begin_day(self, state: State, day: date, terms: Terms) -> State:
        """Return the state as a day begins; the same where that day goes on already."""
        before = state.day
        if before is not None and day <= before:
            return state
        away = (day - before).days - 1 if before else 0
        state = self.begin_week(state.but(day=day, is_off=False, away=away), terms)
        if before is None or state.done:
            return state
        ended = self.ended_on(state, terms)
        if state.kept:
            state = state.but(streak=0, kept=None)
        return self.begin_again(state.but(ended=ended, stayed=False, target=0), terms)

    def begin_week(self, state: State, terms: Terms) -> State:
        """Return the state as the week of its day has it."""
        return state

    def begin_off(self, state: State) -> State:
        """Return the state from the moment on at which its day is an off day: what came before counts as it did."""
        return state.but(is_off=True)

    def ended_on(self, state: State, terms: Terms) -> int:
        """Return the rung where the last day ended."""
        return state.rung

    def begin_again(self, state: State, terms: Terms) -> State:
        """Return the state on the rung where a new day begins: some below where the last one ended."""
        more = min(state.away // BREAK_DAYS, MOST_MORE_BACK)
        begin = max(1, state.ended - terms.back - more)
        if begin < state.ended:
            return state.at(begin, target=state.ended, why=Why.BREAK if more else Why.NEXT_DAY)
        if state.rung != state.ended:
            state = state.at(state.ended)
        return state.but(why=self.usual(state))

    @abstractmethod
    def usual(self, state: State) -> Why:
        """Return the reason that the rule itself gives."""

    def count(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state after an attempt on the day that it stands at."""
        state = self.noted(state, attempt, terms)
        if state.done or state.stayed:
            return state
        if attempt.rung != state.rung:
            state = state.at(attempt.rung, target=0, why=Why.MOVED)
        elif state.why in ONCE:
            state = state.but(why=self.usual(state))
        return self.counted(state, attempt, terms)

    def noted(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state with what is kept of every attempt, even where it moves nothing."""
        return state.but(last=(*state.last, attempt)[-REMEMBERED:])

    def counted(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state after an attempt on its own rung; an open one changes nothing that is counted in a row."""
        clean = attempt.clean
        if attempt.chance is not None:
            state = state.but(chances=state.chances + 1, cleans=state.cleans + attempt.chance)
        if not state.target and self.passes_by_rate(state):
            return self.passing(state, terms)
        if clean is None:
            return state
        state = state.but(streak=state.streak + 1 if clean else 0, misses=0 if clean else state.misses + 1)
        if state.target:
            state = self.return_on(state, clean, terms)
            if clean:
                return state
        return self.cleaned(state, attempt, terms) if clean else self.missed(state, terms)

    def passes_by_rate(self, state: State) -> bool:
        """Return whether the chances of the attempts since arriving pass the rung, however they came one by one."""
        return False

    def return_on(self, state: State, clean: bool, terms: Terms) -> State:
        """Return the state one up where a return goes on; an attempt that isn't clean ends it."""
        if not clean:
            return state.but(target=0, why=self.usual(state))
        if state.rung + 1 > self.top(state, terms):
            state = state.but(target=0)
        else:
            state = state.at(state.rung + 1)
            state = state.but(target=0 if state.rung >= state.target else state.target)
        return state.but(why=Why.RETURNING if state.target else self.usual(state))

    @abstractmethod
    def cleaned(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state after a clean attempt that is no step of a return."""

    def missed(self, state: State, terms: Terms) -> State:
        """Return the state after an attempt that wasn't clean: a fall, where the ladder has one and it is due."""
        if not terms.fall_after or state.misses < terms.fall_after:
            return state
        to = max(1, state.rung - terms.fall_by)
        fell = to < state.rung
        state = state.at(to)
        return state.but(why=Why.FELL) if fell else state

    def top(self, state: State, terms: Terms) -> int:
        """Return the highest rung that may be risen to now: on an off day none above where the last day ended."""
        return min(terms.last, state.ended) if state.is_off else terms.last

    def passing(self, state: State, terms: Terms) -> State:
        """Return the state with its rung passed: secure, and up one where that may be."""
        state = state.passed()
        if state.rung == terms.last:
            return state.but(done=True, why=Why.DONE)
        if state.rung + 1 <= self.top(state, terms):
            state = state.at(state.rung + 1)
            return state.but(why=self.usual(state))
        why = self.kept_by(state)
        return state.but(kept=why, why=why)

    def kept_by(self, state: State) -> Why:
        """Return why a rung that was passed is not left today."""
        return Why.OFF_DAY

    def settled(self, state: State, terms: Terms) -> State:
        """Return the state as it is asked about, where the rule chooses a rung only then."""
        return state

    def needs(self, state: State) -> Needs:
        """Return what passes the rung and how much of it is there; None where today asks for nothing more."""
        if state.done or state.stayed or state.kept:
            return None
        return {"clean": 1, "so_far": 0} if state.target else self.wanted(state)

    @abstractmethod
    def wanted(self, state: State) -> Needs:
        """Return what the rule itself wants, and how much of it is there."""

    def chance(self, state: State, terms: Terms) -> Chance | None:
        """Return the chance of a clean attempt on the rung, where the rule goes by it."""
        return None

    def offered(self, state: State, terms: Terms) -> int | None:
        """Return the rung above one just risen to, where the last attempts lay far inside their limits."""
        has_just_risen = bool(state.last) and state.rung == state.secure + 1 == state.last[-1].rung + 1
        is_easy = len(state.last) == REMEMBERED and all(attempt.easy for attempt in state.last)
        is_asked = self.offers and has_just_risen and is_easy and not state.target
        return state.rung + 1 if is_asked and state.rung + 1 <= self.top(state, terms) else None


class InARow(Rule):
    """A school of clean attempts in a row; one more of them on an off day.

    Attributes
    ----------
    by_rate : bool
        Whether a rung is passed as well once its attempts say that three in four are clean.
    """

    clean: Count
    by_rate: ClassVar[bool] = False

    def passes_by_rate(self, state: State) -> bool:
        """Return whether three in four are clean, likely enough: the rate's posterior from a flat prior."""
        if not self.by_rate or state.kept or state.chances < self.asked(state):
            return False
        below = betainc(1 + state.cleans, 1 + state.chances - state.cleans, RATE)
        return bool(1 - below >= RATE_SURE)

    def usual(self, state: State) -> Why:
        """Return the reason that the rule itself gives."""
        return Why.STREAK

    def asked(self, state: State) -> int:
        """Return how many clean attempts pass a rung today."""
        return self.clean + state.is_off

    def cleaned(self, state: State, attempt: Attempt, terms: Terms) -> State:
        """Return the state after a clean attempt: the rung is passed by the last one asked."""
        return self.passing(state, terms) if state.streak >= self.asked(state) and not state.kept else state

    def wanted(self, state: State) -> Needs:
        """Return how many are asked, and there."""
        return {"clean": self.asked(state), "so_far": state.streak}
