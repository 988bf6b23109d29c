"""What every policy shares."""

from django.core.exceptions import PermissionDenied


def require(allowed: bool) -> None:
    """Refuse what a policy does not allow."""
    if not allowed:
        raise PermissionDenied
