"""Where a ladder stands at a moment, and what one take did to it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, time
from uuid import UUID

from django.urls import reverse
from django.utils import timezone

from giusto.practice.ladder import Attempt, Step, climbed, step_from
from studio.drills.sentence.codec import query, words_of
from studio.exercises.models import Session
from studio.ladders.attempts import Tried, tried_of
from studio.ladders.memory import Past, in_order, pasts
from studio.ladders.models import Ladder


@dataclass(frozen=True, slots=True)
class LadderStanding:
    """A ladder, the takes on it, and what to play now.

    Attributes
    ----------
    ladder : Ladder
    past : Past
        What happened on it before today.
    today : list of Tried
        Oldest first.
    step : Step
    is_off : bool
        Whether today is an off day by now.
    """

    ladder: Ladder
    past: Past
    today: list[Tried]
    step: Step
    is_off: bool

    @property
    def tried(self) -> list[Tried]:
        """The takes on it, oldest first."""
        return [*self.past.tried, *self.today]

    @property
    def others(self) -> tuple[Attempt, ...]:
        """Those that were made elsewhere."""
        return self.past.others

    @property
    def attempts(self) -> list[Attempt]:
        """All that counts: the takes, and what was made elsewhere."""
        return in_order(self.tried, self.others)

    @property
    def url(self) -> str:
        """The address at which what is asked now is played."""
        return play_address(self.ladder, self.step.rung)

    @property
    def offered_url(self) -> str:
        """The address of the double step that is offered."""
        return play_address(self.ladder, self.step.offered or self.step.rung)

    @property
    def asked_about(self) -> list[Tried]:
        """The newest takes of which nobody can say yet whether they were clean, newest first."""
        return [one for one in reversed(self.tried) if one.is_asked][:3]


@dataclass(frozen=True, slots=True)
class Done:
    """What one take did to its ladder: where it stood before, and after.

    Attributes
    ----------
    tried : Tried
    before, after : Step
    is_latest : bool
        Whether nothing was played on the ladder since.
    """

    tried: Tried
    before: Step
    after: Step
    is_latest: bool


def standings(ladders: Iterable[Ladder], now: datetime) -> list[LadderStanding]:
    """Return where ladders of one player stand, in a bounded number of queries; days gone by are not replayed again."""
    some = list(ladders)
    if not some:
        return []
    began = _midnight(now)
    before, today = pasts(some, began), tried_of(some, since=began)
    is_off = _is_off(some[0].player_id, now)
    return [_standing(ladder, before[ladder.pk], today.get(ladder.pk, []), now, is_off=is_off) for ladder in some]


def _standing(ladder: Ladder, past: Past, today: list[Tried], now: datetime, *, is_off: bool) -> LadderStanding:
    local, began = timezone.localtime(now), _midnight(now)
    made = in_order(today, (one for one in past.others if one.at >= began))
    state = climbed(ladder.core, (one for one in made if one.at <= local), past.state)
    return LadderStanding(ladder, past, today, step_from(ladder.core, state, at=local, off=is_off), is_off)


def done_by(standing: LadderStanding, take: UUID) -> Done | None:
    """Return what a take did to its ladder, None where it is not on one of its rungs."""
    tried = standing.tried
    index = next((number for number, one in enumerate(tried) if one.take == take), None)
    if index is None:
        return None
    one, core, count = tried[index], standing.ladder.core, len(standing.past.tried)
    first, state, began = (count, standing.past.state, _midnight(one.at)) if index >= count else (0, None, None)
    others = [other for other in standing.others if other.at <= one.at and (began is None or other.at >= began)]
    before, after = (
        step_from(core, climbed(core, in_order(tried[first:end], others), state), at=one.at, off=one.facts.is_off)
        for end in (index, index + 1)
    )
    return Done(one, before, after, index == len(tried) - 1)


def play_address(ladder: Ladder, rung: int) -> str:
    """Return the address at which a rung is played."""
    words = words_of(ladder.core.drills[rung - 1])
    return f"{reverse('takes:play')}?{query({**words, 'drill': ladder.exercise.word})}"


def _midnight(now: datetime) -> datetime:
    """Return when the local day of a moment began."""
    local = timezone.localtime(now)
    return timezone.make_aware(datetime.combine(local.date(), time()), local.tzinfo)


def _is_off(player_id: int, now: datetime) -> bool:
    day = timezone.localtime(now).date()
    return Session.objects.filter(player=player_id, day=day, is_off=True).exists()
