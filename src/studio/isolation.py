"""Cross-origin isolation: with it, browsers stamp events to 5 µs instead of 100 µs."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse


class IsolationMiddleware:
    """Add COEP beside the COOP header that Django's security middleware sends."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Add the header."""
        response = self.get_response(request)
        response.headers["Cross-Origin-Embedder-Policy"] = "require-corp"
        return response
