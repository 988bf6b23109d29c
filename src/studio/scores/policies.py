"""Who may do what with a score's file."""

from studio.accounts.models import Player


def may_bring(player: Player) -> bool:
    """Whether the player may bring scores in."""
    return player.is_authenticated and player.is_active
