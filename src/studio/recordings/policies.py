"""Who may do what with a dropped recording."""

from studio.accounts.models import Player
from studio.recordings.models import Upload


def may_drop(player: Player) -> bool:
    """Whether the player may bring recordings in."""
    return player.is_authenticated and player.is_active


def may_change(player: Player, upload: Upload) -> bool:
    """Whether the player may cancel or forget a recording."""
    return may_drop(player) and upload.player_id == player.pk
