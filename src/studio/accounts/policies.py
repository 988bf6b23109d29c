"""What every policy shares, and what a player may do with what they say of themselves."""

from django.contrib.auth.models import AnonymousUser
from django.core.exceptions import PermissionDenied

from studio.accounts.models import Player


def require(allowed: bool) -> None:
    """Refuse what a policy does not allow."""
    if not allowed:
        raise PermissionDenied


def may_describe(player: Player | AnonymousUser) -> bool:
    """Whether a player may change name, instrument and words: their own, and nobody the demo's."""
    return isinstance(player, Player) and player.is_active and not player.is_demo
