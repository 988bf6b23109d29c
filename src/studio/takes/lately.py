"""What was played of an exercise lately, for the page that is ready for the next take of it."""

from __future__ import annotations

from django.utils import timezone

from studio.accounts.models import Player
from studio.exercises.models import Exercise
from studio.sheet.words import NBSP, signed_ms
from studio.takes.models import Silence, Take
from studio.words import ordinal


def nth_today(player: Player, exercise: Exercise | None) -> str:
    """Return which take of its exercise comes now, such as ``Third take of it today``."""
    takes = Take.objects.filter(player=player, deleted_at=None, session__day=timezone.localdate())
    count = takes.filter(exercise=exercise).count() if exercise else 0
    return nth_words(count + 1)


def nth_words(count: int) -> str:
    """Return which take of its exercise one is on its day."""
    return f"{ordinal(count).capitalize()} take of it today"


def last_result(player: Player, exercise: Exercise | None) -> str:
    """Return what the returns of the last take of an exercise were; nothing where there was none."""
    if exercise is None:
        return ""
    takes = Take.objects.telling_of(player).filter(exercise=exercise).read().order_by("-started_at")
    last = takes.first()
    if last is None:
        return ""
    returns = Silence.objects.filter(take=last).exclude(return_ms=None).values_list("return_ms", flat=True)
    some = sorted(ms for ms in returns if ms is not None)
    if not some:
        return ""
    low, high = some[0], some[-1]
    if low * high > 0 and round(abs(low)) != round(abs(high)):
        near, far = sorted((abs(low), abs(high)))
        return f"{near:.0f} to {far:.0f}{NBSP}ms {'late' if low > 0 else 'early'}"
    return signed_ms(low) if len(some) == 1 or round(low) == round(high) else f"{signed_ms(low)} to {signed_ms(high)}"
