"""Nobody comes in unasked: a page leads to the door, a script is told so. Where one is signed in is kept."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from allauth.usersessions.middleware import UserSessionsMiddleware
from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse

SEEN, SEEN_EVERY_S = "seen", 300.0  # in a session; ours


class SeenMiddleware:
    """Keep when and where a session was seen last: now and then, and not with each batch of notes."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response, self.seen = get_response, UserSessionsMiddleware(get_response)

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, and have it noted where that is a while ago."""
        now = time.time()
        if not request.user.is_authenticated or now - request.session.get(SEEN, 0.0) < SEEN_EVERY_S:
            return self.get_response(request)
        request.session[SEEN] = now
        answer: HttpResponse = self.seen(request)
        return answer


class SignedInMiddleware(LoginRequiredMiddleware):
    """Ask for an account on every page but those that say otherwise of themselves (``login_not_required``)."""

    def handle_no_permission(  # type: ignore[override]  # Django's own answers lead on; a script's is told
        self, request: HttpRequest, view_func: Any
    ) -> HttpResponseBase:
        """Lead to the door and back; a script is told in JSON, so that it keeps what it has."""
        if "application/json" in request.headers.get("Accept", ""):
            return JsonResponse({"error": "Sign in first: what you played waits in this browser."}, status=401)
        if request.headers.get("HX-Request"):
            return HttpResponse(status=204, headers={"HX-Refresh": "true"})
        return super().handle_no_permission(request, view_func)
