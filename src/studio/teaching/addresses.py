"""Addresses of a look: a pupil's pages as their teacher opens them, and the teacher's own from there."""

from __future__ import annotations

from typing import Any

from django.urls import reverse

from studio.accounts.models import Player
from studio.addresses import below
from studio.takes.models import Take
from studio.teaching.models import Shown


def see(player: Player, name: str, *args: Any) -> str:
    """Return the address of a pupil's page, for whoever may look at it."""
    return _below(f"/pupils/{player.pk}/see/", name, *args)


def shown(link: Shown, take: Take) -> str:
    """Return the address of a reading that a link shows."""
    return _below(f"/shown/{link.token}/", "readings:reading", take.pk)


def own(name: str, *args: Any) -> str:
    """Return the address of a page of one's own, from whatever is looked at."""
    return _below("/", name, *args)


def _below(prefix: str, name: str, *args: Any) -> str:
    with below(prefix):
        return reverse(name, args=args)
