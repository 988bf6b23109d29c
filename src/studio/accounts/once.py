"""Twice is once: a form that is sent again while it is answered, or just after, has the answer it had."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from hashlib import sha256

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.utils import timezone

from studio.accounts.models import Answered, Player
from studio.guard import FORMS
from studio.locks import PLAYER, held

KEPT = timedelta(minutes=5)  # ours
HEAD_BYTES = 65_536  # of a file, beside its name and size: enough to tell it from another


class OnceMiddleware:
    """Answer one form of a player at a time; what is sent twice at once is done once.

    Two clicks, two tabs, a browser that asks again: the second waits for the first, and is led where that was led.
    Only what leads somewhere is remembered; an error is answered anew.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Let a form wait for those before it."""
        player = request.user
        if request.method != "POST" or request.content_type not in FORMS or not isinstance(player, Player):
            return self.get_response(request)
        came = timezone.now()
        with held(PLAYER, player.pk):
            digest = _digest(request)
            if twin := _twin(player, digest, came):
                return HttpResponseRedirect(twin.location)
            response = self.get_response(request)
            if response.status_code == 302:
                Answered.objects.filter(player=player, at__lt=came - KEPT).delete()
                Answered.objects.create(
                    player=player, digest=digest, location=response.headers["Location"], at=timezone.now()
                )
        return response


def _twin(player: Player, digest: str, came: datetime) -> Answered | None:
    """Return what the same form was answered while this one was on its way, or a moment before."""
    since = came - timedelta(seconds=settings.TWIN_S)
    return Answered.objects.filter(player=player, digest=digest, at__gt=since).order_by("-at").first()


def _digest(request: HttpRequest) -> str:
    """Return what tells a form from another: where it goes, its words but for the token, its files."""
    found = sha256(request.get_full_path().encode())
    for name in sorted(request.POST):
        if name != "csrfmiddlewaretoken":
            found.update(repr((name, request.POST.getlist(name))).encode("utf-8", "surrogatepass"))
    for name in sorted(request.FILES):
        for file in request.FILES.getlist(name):
            found.update(repr((name, file.name, file.size)).encode("utf-8", "surrogatepass"))
            found.update(file.read(HEAD_BYTES))
            file.seek(0)
    return found.hexdigest()
