"""Who may do what with a drill: a function a verb, deny by default."""

from studio.accounts.models import Player
from studio.drills.models import OwnDrill


def may_keep(player: Player) -> bool:
    """Whether the player may keep drills of their own."""
    return player.is_authenticated and player.is_active


def may_change(player: Player, own: OwnDrill) -> bool:
    """Whether the player may change, delete or restore a drill."""
    return may_keep(player) and own.player_id == player.pk
