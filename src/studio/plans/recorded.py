"""What is on Today, for a recording that was dropped without a word on its drill."""

from __future__ import annotations

from collections.abc import Iterator

from django.utils import timezone

from studio.accounts.models import Player
from studio.plans.today import today_of
from studio.recordings.among import Candidate


def on_today(player: Player) -> Iterator[Candidate]:
    """Yield the drills of today's items."""
    today = today_of(player, timezone.now())
    for line in today.lines if today else []:
        if line.item.drill:
            yield Candidate(line.item.drill, "", "on Today")
