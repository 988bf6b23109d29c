"""What may not be mixed: the player of this machine is signed in by being on it, and so nobody else may reach it."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.checks import Error, register, run_checks
from django.core.management.base import SystemCheckError

MIXED = "giusto"  # the tag of these checks
LOCAL = "studio.accounts.middleware.LocalPlayerMiddleware"
ACCOUNTS = "allauth.account.middleware.AccountMiddleware"
LOOPBACK = {"127.0.0.1", "localhost", "[::1]", "testserver"}


@register(MIXED)
def local_player_alone(**_: Any) -> list[Error]:
    """Refuse to start where the local player could be somebody from elsewhere."""
    if LOCAL not in settings.MIDDLEWARE:
        return []
    found = []
    if ACCOUNTS in settings.MIDDLEWARE:
        hint = "Use settings with accounts, or those of one player; never both."
        found.append(
            Error("whoever reaches the site would be the local player, account or not", hint=hint, id="giusto.E003")
        )
    if others := sorted(set(settings.ALLOWED_HOSTS) - LOOPBACK):
        hint = "Leave ALLOWED_HOSTS to this machine, or use settings with accounts."
        found.append(
            Error(f"the local player would be whoever reaches {', '.join(others)}", hint=hint, id="giusto.E001")
        )
    if settings.SECURE_PROXY_SSL_HEADER or settings.USE_X_FORWARDED_HOST:
        hint = "Take the proxy's settings away."
        found.append(Error("the local player would be whoever comes through the proxy", hint=hint, id="giusto.E002"))
    return found


def refuse_mixtures() -> None:
    """Raise ``SystemCheckError`` where settings are mixed; for what serves pages, and runs no checks of its own."""
    if found := run_checks(tags=[MIXED]):
        raise SystemCheckError("; ".join(one.msg for one in found))
