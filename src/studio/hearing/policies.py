"""Who may say by what a player is heard: themselves."""

from studio.accounts.models import Player


def may_choose(player: Player) -> bool:
    """Whether the player may change by what they are heard, and calibrate it."""
    return player.is_authenticated and player.is_active
