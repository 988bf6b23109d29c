"""At the door: what other sites may not ask for, what is too large, and the headers of isolation."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from studio.limits import full_disk
from studio.room import is_full

NUL = "\x00"
# What pages of ours may ask a browser for, and nobody else in them.
PERMISSIONS = "microphone=(self), midi=(self), screen-wake-lock=(self), camera=(), geolocation=(), payment=()"
FORMS = ("application/x-www-form-urlencoded", "multipart/form-data")
TOO_LARGE = "That is more than Giusto takes at once: {:,} bytes, allowed are {:,}."


class GuardMiddleware:
    """Refuse what another site's page loads, and bodies of any size; isolate the page.

    With COEP beside the COOP header of Django's security middleware, browsers stamp events to 5 µs
    instead of 100 µs.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Look at the headers before anything is read."""
        response = self._refused(request) or self.get_response(request)
        response.headers["Cross-Origin-Embedder-Policy"] = "require-corp"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        response.headers["Permissions-Policy"] = PERMISSIONS
        response.headers.setdefault("Cache-Control", "no-store")  # a page is its player's; static files went before
        return response

    def _refused(self, request: HttpRequest) -> HttpResponse | None:
        foreign = request.headers.get("Sec-Fetch-Site") in ("cross-site", "same-site")
        if foreign and request.headers.get("Sec-Fetch-Mode") != "navigate":
            return HttpResponse("Not from another site.", status=403, content_type="text/plain")
        size = int(length) if (length := request.headers.get("Content-Length", "")).isdecimal() else 0
        most = settings.MAX_RECORDING_BYTES if request.path == "/recording/" else settings.MAX_BODY_BYTES
        if size > most:
            text = TOO_LARGE.format(size, most)
            return HttpResponse(text, status=413, content_type="text/plain")
        return None


class TextMiddleware:
    """Refuse a character that no text has and no database keeps: in the path, the query, a form's words."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Look at all words before any view does; what is no form is for its own reader to refuse."""
        words = [request.path, *(text for some in request.GET.lists() for text in (some[0], *some[1]))]
        if request.method == "POST" and request.content_type in FORMS:
            try:
                words += [text for some in request.POST.lists() for text in (some[0], *some[1])]
            except OSError as error:  # a file that comes with it is written down first
                if is_full(error):
                    return full_disk(request, error)
                raise
        if any(NUL in text for text in words):
            return HttpResponse("That has a character (NUL) that no text has.", status=400, content_type="text/plain")
        return self.get_response(request)
