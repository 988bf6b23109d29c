"""What comes after a take while a day is gone through: the next of its plan."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse
from django.utils import timezone

from giusto.drill import Drill
from studio.plans.today import following_address
from studio.takes.models import Take


@dataclass(frozen=True, slots=True)
class Following:
    """Where a day goes on: what it asks, its address and drill; the page of the day where there is nothing to play.

    Attributes
    ----------
    leads : bool
        Whether it is what comes next; not where the take was the plan's last: that is said, and the take's own next
        step keeps its key.
    """

    what: str
    url: str
    drill: Drill | None = None
    leads: bool = True


def following(take: Take) -> Following | None:
    """Return what the plan of today has after a take; None for an older take, or outside of a day's plan."""
    now = timezone.now()
    if timezone.localtime(take.started_at).date() != timezone.localtime(now).date():
        return None
    found = following_address(take.player, now)
    if found is None:
        return None
    today = reverse("plan:today")
    if found.line is None:
        return (
            Following("That was the plan: close the day", today, leads=False) if found.day.ended_by(take.pk) else None
        )
    item = found.line.item
    is_same = take.exercise_id in item.exercises
    return Following(item.what.rstrip(".") if is_same else f"On to {item.name}", item.url or today, item.drill)
