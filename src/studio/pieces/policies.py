"""Who may do what with a piece: a function a verb, deny by default."""

from studio.accounts.models import Player
from studio.pieces.models import Piece


def may_keep(player: Player) -> bool:
    """Whether the player may keep pieces."""
    return player.is_authenticated and player.is_active


def may_change(player: Player, piece: Piece) -> bool:
    """Whether the player may change, mark, delete or restore a piece."""
    return may_keep(player) and piece.player_id == player.pk
