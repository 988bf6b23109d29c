"""The five places that the head names, and in which of them a page stands."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.http import HttpRequest
from django.urls import reverse

# A place, the page that it opens, and what stands in it: a room of addresses, or one page of a room.
PLACES = (
    ("Today", "plan:today", ("plan",)),
    ("Click", "drills:set", ("drills",)),
    ("Work", "work:page", ("work", "ladders", "pieces", "scores", "plan:weeks", "plan:routine", "plan:routine-import")),
    ("Log", "log:page", ("log", "readings", "takes", "recordings")),
    ("Progress", "progress:page", ("progress", "reach")),
)
NOWHERE = ("takes:phone",)  # pages of a device, and of no place


@dataclass(frozen=True, slots=True)
class HeadPlace:
    """A place as the head names it."""

    name: str
    url: str
    is_here: bool

    @property
    def is_seen(self) -> bool:
        """Whether somebody else may be let look at it: all but where a click is set."""
        return self.name != "Click"


def places(request: HttpRequest) -> dict[str, Any]:
    """Give every page the five places, the one that it stands in marked."""
    here = place_of(request.resolver_match.view_name if request.resolver_match else "")
    found = [HeadPlace(name, reverse(page), name == here) for name, page, _ in PLACES]
    return {"places": found, "many": settings.MANY, "csrf_cookie": settings.CSRF_COOKIE_NAME}


def place_of(view_name: str) -> str:
    """Return the place that a page stands in, by the name of its view; nothing for a page that is the player's own."""
    room = view_name.partition(":")[0]
    by_page = {page: name for name, _, inside in PLACES for page in inside}
    return "" if view_name in NOWHERE else by_page.get(view_name, by_page.get(room, ""))
