"""A limit on guessing: so many tries a while from one address, counted by all processes together."""

from __future__ import annotations

from django.core.cache import cache
from django.http import HttpRequest

TRIES, WINDOW_S = 10, 300  # ours


def may_try(request: HttpRequest, what: str) -> bool:
    """Count a try, and say whether it is allowed."""
    key = f"tries:{what}:{address_of(request)}"
    cache.add(key, 0, WINDOW_S)
    try:
        return cache.incr(key) <= TRIES
    except ValueError:  # it ran out between the two
        return True


def address_of(request: HttpRequest) -> str:
    """Return the address that a request came from: the proxy's word, since it alone is asked."""
    return str(request.META.get("HTTP_X_REAL_IP") or request.META.get("REMOTE_ADDR", ""))
