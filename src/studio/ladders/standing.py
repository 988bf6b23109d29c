"""Where a ladder stands at a moment, and what one take did to it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.urls import reverse
from django.utils import timezone

from giusto.practice.ladder import Attempt, Step, next_step
from studio.drills.sentence.codec import query, words_of
from studio.exercises.models import Session
from studio.ladders.attempts import Tried, attempts, others_of, tried_of
from studio.ladders.models import Ladder


@dataclass(frozen=True, slots=True)
class Standing:
    """A ladder, the takes on it, and what to play now.

    Attributes
    ----------
    ladder : Ladder
    tried : list of Tried
        Oldest first.
    step : Step
    is_off : bool
        Whether today is an off day.
    others : tuple of Attempt
        Those that were made elsewhere.
    """

    ladder: Ladder
    tried: list[Tried]
    step: Step
    is_off: bool
    others: tuple[Attempt, ...] = ()

    @property
    def attempts(self) -> list[Attempt]:
        """All that counts: the takes, and what was made elsewhere."""
        return _all_attempts(self.tried, self.others)

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
        return [one for one in reversed(self.tried) if one.clean is None][:3]


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


def standings(ladders: Iterable[Ladder], now: datetime) -> list[Standing]:
    """Return where ladders of one player stand, in three queries."""
    some = list(ladders)
    tried, others = tried_of(some), others_of(some)
    is_off = bool(some) and _is_off(some[0].player_id, now)
    return [
        standing_of(ladder, tried.get(ladder.pk, []), now, is_off=is_off, others=others.get(ladder.pk, ()))
        for ladder in some
    ]


def standing_of(
    ladder: Ladder, tried: Sequence[Tried], now: datetime, *, is_off: bool = False, others: Iterable[Attempt] = ()
) -> Standing:
    """Return where a ladder stands by the takes on it, and by what was made elsewhere."""
    elsewhere = tuple(others)
    step = next_step(ladder.core, _all_attempts(tried, elsewhere), at=timezone.localtime(now), off=is_off)
    return Standing(ladder, list(tried), step, is_off, elsewhere)


def done_by(standing: Standing, take: UUID) -> Done | None:
    """Return what a take did to its ladder, None where it is not on one of its rungs."""
    index = next((number for number, one in enumerate(standing.tried) if one.take == take), None)
    if index is None:
        return None
    one, ladder = standing.tried[index], standing.ladder
    before, after = (
        standing_of(ladder, standing.tried[:end], one.at, is_off=one.off, others=standing.others).step
        for end in (index, index + 1)
    )
    return Done(one, before, after, index == len(standing.tried) - 1)


def play_address(ladder: Ladder, rung: int) -> str:
    """Return the address at which a rung is played."""
    words = words_of(ladder.core.drills[rung - 1])
    return f"{reverse('takes:play')}?{query({**words, 'drill': ladder.exercise.word})}"


def _all_attempts(tried: Iterable[Tried], others: Iterable[Attempt]) -> list[Attempt]:
    return sorted([*others, *attempts(tried)], key=lambda attempt: attempt.at)


def _is_off(player_id: int, now: datetime) -> bool:
    day = timezone.localtime(now).date()
    return Session.objects.filter(player=player_id, day=day, is_off=True).exists()
