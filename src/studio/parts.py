"""Which of Giusto's own parts are down just now, as ``./giusto start`` tells it: a page says so."""

from __future__ import annotations

import json

from django.conf import settings
from django.http import HttpRequest

from studio.room import has_room

# What a player misses while a part is down. The page that says so is there: web server and database are not in it.
MISSED = {
    "worker": "takes by microphone and scores wait to be read",
    "second worker": "recordings wait to be heard",
}


FULL = (
    "The disk of the machine that Giusto runs on is full. What you play stays in this browser until there is room,"
    " and recordings and sounds wait for it."
)


def down(request: HttpRequest) -> dict[str, str]:
    """Give every page what waits until a part runs again, or until there is room."""
    if settings.RUN is None:
        return {}
    full = "" if has_room(settings.RUN) else FULL
    try:
        names = json.loads((settings.RUN / "down.json").read_text(encoding="ascii"))
    except (OSError, ValueError):
        names = []
    return {"down": "; ".join(MISSED[name] for name in names if name in MISSED), "full": full}
