"""Who may bring somebody in, let somebody in again, and say what each may: a function a verb, deny by default."""

from studio.accounts.models import Player


def may_invite(player: Player) -> bool:
    """Whether the player may make codes for new accounts."""
    return player.is_authenticated and player.teaches


def may_look_after(player: Player) -> bool:
    """Whether the player looks after the studio: who is in it, and what each may."""
    return player.is_authenticated and player.is_owner
