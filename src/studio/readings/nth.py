"""Which take of its exercise and day a take is, in words."""

from __future__ import annotations

from django.utils import timezone

from studio.takes.lately import nth_words
from studio.takes.models import Take


def nth_of_day(take: Take) -> str:
    """Return when a take was played, such as ``Third take of it today, 18:40`` or ``Sunday 29 November, 18:40``."""
    at = timezone.localtime(take.started_at)
    if at.date() != timezone.localdate():
        return f"{at:%A %-d %B, %H:%M}" if at.year == timezone.localdate().year else f"{at:%-d %B %Y, %H:%M}"
    takes = Take.objects.filter(player=take.player_id, session=take.session_id, exercise=take.exercise_id)
    count = takes.filter(deleted_at=None, started_at__lte=take.started_at).count()
    return f"{nth_words(max(count, 1))}, {at:%H:%M}"
