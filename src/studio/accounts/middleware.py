"""Whose request it is: the one player of this machine signs in by being on it."""

from collections.abc import Callable
from ipaddress import ip_address

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from studio.accounts.models import Player, demo_player, local_player
from studio.vocabulary import Vocabulary, using

# What a proxy puts on a request that it passes on: then whoever asks is not on this machine, whatever their address.
FORWARDED = ("HTTP_X_FORWARDED_FOR", "HTTP_FORWARDED", "HTTP_VIA", "HTTP_X_REAL_IP", "HTTP_X_FORWARDED_HOST")
AS_DEMO = "demo"  # in the session of a browser that looks at the demo


class LocalPlayerMiddleware:
    """Make requests from loopback those of the local player, or of the demo's, and refuse all others."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Sign the player in before any view runs."""
        if not _is_local(request):
            return self.get_response(request)  # refused below, so that the page for it is shown
        request.user = _player_of(request)
        return self.get_response(request)

    def process_view(self, request: HttpRequest, *args: object) -> None:
        """Refuse what comes from elsewhere."""
        if not _is_local(request):
            raise PermissionDenied


class OwnWordsMiddleware:
    """Let the time zone and the words of whoever is signed in hold while their request is answered."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer in the player's words; a stranger's are those of the machine."""
        player = request.user
        if not isinstance(player, Player):
            return self.get_response(request)
        words = Vocabulary(player.note_names, player.counts)
        with timezone.override(player.time_zone or None), using(words):
            return self.get_response(request)


def _player_of(request: HttpRequest) -> Player:
    return (request.session.get(AS_DEMO) and demo_player()) or local_player()


def _is_local(request: HttpRequest) -> bool:
    """Return whether whoever asks is on this machine: nobody is who comes through a proxy, even one that is."""
    return _from_here(request.META.get("REMOTE_ADDR", "")) and not any(name in request.META for name in FORWARDED)


def _from_here(address: str) -> bool:
    try:
        return ip_address(address).is_loopback
    except ValueError:
        return False
