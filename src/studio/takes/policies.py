"""Who may do what with a take: a function a verb, deny by default."""

from studio.accounts.models import Player
from studio.takes.models import Take


def may_play(player: Player) -> bool:
    """Whether the player may begin a take."""
    return player.is_authenticated and player.is_active


def may_change(player: Player, take: Take) -> bool:
    """Whether the player may add to a take, annotate, delete or restore it."""
    return may_play(player) and take.player_id == player.pk
