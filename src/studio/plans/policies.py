"""Who may do what with a plan: a function a verb, deny by default."""

from studio.accounts.models import Player


def may_plan(player: Player) -> bool:
    """Whether the player may have a routine, choose weeks and go through days: their own."""
    return player.is_authenticated and player.is_active
