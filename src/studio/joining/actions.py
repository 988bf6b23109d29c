"""What is done with accounts behind the pages."""

from __future__ import annotations

from django.conf import settings
from django.utils import timezone

from studio.accounts.models import Player


def forget_left() -> int:
    """Delete whoever left a studio and whose fourteen days are over, with all rows of theirs; return how many.

    Their files are then nobody's, and go as such do.
    """
    if not settings.MANY:  # the tables of accounts are known to a studio alone
        return 0
    gone = list(Player.objects.filter(leaves_at__lt=timezone.now(), is_active=False))
    for player in gone:
        player.delete()
    return len(gone)
