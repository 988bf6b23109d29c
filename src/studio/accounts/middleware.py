"""The one local player signs in by being on this machine."""

from collections.abc import Callable
from ipaddress import ip_address

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.utils.functional import SimpleLazyObject

from studio.accounts.models import local_player


class LocalPlayerMiddleware:
    """Make requests from loopback those of the local player, and refuse all others."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on; ``process_view`` does the work."""
        return self.get_response(request)

    def process_view(self, request: HttpRequest, *args: object) -> None:
        """Sign the local player in before any view runs."""
        if not _from_here(request.META.get("REMOTE_ADDR", "")):
            raise PermissionDenied
        request.user = SimpleLazyObject(local_player)  # type: ignore[assignment]


def _from_here(address: str) -> bool:
    try:
        return ip_address(address).is_loopback
    except ValueError:
        return False
