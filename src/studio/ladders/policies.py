"""Who may do what with a ladder: a function a verb, deny by default."""

from studio.accounts.models import Player
from studio.ladders.models import Ladder


def may_climb(player: Player) -> bool:
    """Whether the player may have ladders."""
    return player.is_authenticated and player.is_active


def may_change(player: Player, ladder: Ladder) -> bool:
    """Whether the player may change, delete or restore a ladder."""
    return may_climb(player) and ladder.player_id == player.pk
