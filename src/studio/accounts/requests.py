"""A request as views get it: the player is signed in by then."""

from __future__ import annotations

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

from studio.accounts.models import Player


class PlayerRequest(HttpRequest):
    """What ``LocalPlayerMiddleware`` and htmx's make of a request; for types only, never made by itself."""

    user: Player
    htmx: HtmxDetails
