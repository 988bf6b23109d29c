"""How much of a studio's disk a player may have: sound that is kept, and recordings that wait to be heard.

On a machine of one's own there is no such limit: its disk is the player's.
"""

from __future__ import annotations

from dataclasses import dataclass

from django.conf import settings
from django.db.models import Sum

from studio.accounts.models import Player
from studio.takes.models import KeptSound

MEGABYTE = 1_000_000
FULL = "your kept sounds have the {:,.0f} MB that this studio gives a player: forget some, on their takes"


@dataclass(frozen=True, slots=True)
class Allowance:
    """What of a studio's disk a player's kept sounds have, in bytes, and how much they may have."""

    has: int
    most: int

    @property
    def has_mb(self) -> float:
        """What they have, in MB."""
        return self.has / MEGABYTE

    @property
    def most_mb(self) -> float:
        """What they may have, in MB."""
        return self.most / MEGABYTE


def allowance_of(player: Player) -> Allowance | None:
    """Return what a player's kept sounds have and may have; None where there is no limit."""
    if settings.SOUND_A_PLAYER is None:
        return None
    has = KeptSound.objects.filter(player=player).aggregate(all=Sum("bytes"))["all"] or 0
    return Allowance(has, settings.SOUND_A_PLAYER)


def full_of_sound(player: Player) -> str:
    """Return why no more sound of a player's is kept, as a sentence's end; nothing where there is room."""
    found = allowance_of(player)
    return FULL.format(found.most_mb) if found and found.has >= found.most else ""
