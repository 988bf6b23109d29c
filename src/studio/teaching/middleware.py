"""Looking at what is another's: a pupil's pages under ``/pupils/<number>/see/``, one reading under ``/shown/<token>/``.

The pages are those of the site. Here it is decided which of them, of whom, and by whose leave; they are answered as for
their player, in a transaction that can't write, and their links lead to the same player's pages.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from django.contrib.auth.views import redirect_to_login
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.urls import ResolverMatch, resolve
from django.utils import timezone

from studio.accounts.looking import Looking, looked_at
from studio.accounts.models import DEMO, Player
from studio.addresses import below
from studio.joining.models import note
from studio.refusals import not_found
from studio.takes.models import Take
from studio.teaching.addresses import own
from studio.teaching.models import Scope, Shown, consent_of

PUPILS = re.compile(r"(?P<prefix>/pupils/(?P<player>[0-9]{1,18})/see/)(?P<rest>.*)", re.DOTALL)
SHOWN = re.compile(r"(?P<prefix>/shown/(?P<token>[\w-]{43})/)(?P<rest>.*)", re.DOTALL)
# What a teacher may look at: the view, and how the pupil is told of it.
LOOKED = {
    "plan:today": "looked at Today",
    "plan:weeks": "looked at the weeks",
    "work:page": "looked at what you work on",
    "ladders:climb": "looked at a ladder",
    "ladders:exercise": "",
    "pieces:piece": "looked at a piece",
    "pieces:stretch": "looked at a stretch of a piece",
    "scores:score": "",  # a picture of a page that was told
    "log:page": "looked at the log",
    "readings:latest": "",  # leads on to a reading
    "readings:reading": "looked at a reading",
    "readings:silence": "looked at a silence",
    "progress:page": "looked at your progress",
    "progress:figures": "looked at all figures",
    "progress:exercises": "looked at how ladders went",
    "progress:this-month": "",
    "progress:month": "looked at a month",
    "reach:page": "looked at your reach",
    "takes:sound": "listened to a take",
}
SCOPES = {"takes:sound": Scope.SOUND}
BY_LINK = ("readings:reading", "readings:silence")


class LookMiddleware:
    """Answer a look as for the player whose pages they are; whoever may not look finds nothing there."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Look at the address."""
        for pattern, leave in ((PUPILS, _by_consent), (SHOWN, _by_link)):
            if found := pattern.fullmatch(request.path_info):
                return self._looked(request, found, leave)
        return self.get_response(request)

    def _looked(self, request: HttpRequest, found: re.Match[str], leave: Callable[..., Looking | None]) -> HttpResponse:
        if found.re is PUPILS and not request.user.is_authenticated:
            return redirect_to_login(request.get_full_path())
        match = _match(f"/{found['rest']}")
        look = leave(request, found, match) if match else None
        if match is None or look is None:
            return not_found(request)
        if request.method not in ("GET", "HEAD"):
            return HttpResponseNotAllowed(["GET", "HEAD"])
        if look.viewer and not look.is_of_demo and (told := LOOKED[match.view_name]):
            note(look.player, look.viewer, told + _which(look.player, match))
        request.user = look.player
        request.path_info = f"/{found['rest']}"
        request.looking = look  # type: ignore[attr-defined]
        with below(found["prefix"]), looked_at(look):
            return self.get_response(request)


def _match(path: str) -> ResolverMatch | None:
    with suppress(Http404):
        match = resolve(path)
        return match if match.view_name in LOOKED else None
    return None


def _by_consent(request: HttpRequest, found: re.Match[str], match: ResolverMatch) -> Looking | None:
    """Return the look that a pupil agreed to; the demo's invented player may be looked at by everybody here."""
    viewer, player = request.user, Player.objects.filter(pk=int(found["player"])).first()
    if player is None or not isinstance(viewer, Player):
        return None
    if player.username == DEMO:
        return Looking(player, viewer, shows_words=True, shows_sound=True, since=None)
    consent = consent_of(player, viewer)
    if consent is None or SCOPES.get(match.view_name, Scope.TAKES) not in consent.scopes:
        return None
    return consent.look


def _by_link(_: HttpRequest, found: re.Match[str], match: ResolverMatch) -> Looking | None:
    """Return the look at the one reading that a link shows."""
    shown = Shown.objects.filter(token=found["token"], ends_at__gt=timezone.now()).select_related("player").first()
    if shown is None or match.view_name not in BY_LINK or match.kwargs.get("take_id") != shown.take_id:
        return None
    if not shown.player.is_active:
        return None
    return Looking(shown.player, None, shows_words=False, shows_sound=False, since=None)


def _which(player: Player, match: ResolverMatch) -> str:
    """Return which reading it was, for the pupil's line."""
    if "take_id" not in match.kwargs:
        return ""
    take = Take.objects.filter(player=player, pk=match.kwargs["take_id"]).select_related("exercise").first()
    return f": {take.title}, {timezone.localtime(take.started_at):%d %B}" if take else ""


def looking_of(request: HttpRequest) -> dict[str, Any]:
    """Give every page the look that it is, if it is one, and the way back from it."""
    look: Looking | None = getattr(request, "looking", None)
    if look is None:
        return {"looking": None}
    return {"looking": look, "way_back": own("home") if look.is_of_demo else own("teaching:pupil", look.player.pk)}
