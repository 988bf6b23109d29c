"""Pages for what went wrong, or one line of JSON for a script."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render


def refusal(request: HttpRequest, *, status: int, title: str, text: str) -> HttpResponse:
    """Say in one page, or one JSON line for a script, what can't be done."""
    if "application/json" in request.headers.get("Accept", ""):
        return JsonResponse({"error": text}, status=status)
    return render(request, "refusal.html", {"title": title, "text": text}, status=status)


def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """400."""
    return refusal(request, status=400, title="That can’t be read.", text="The request is not a valid one.")


def permission_denied(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """403."""
    if settings.MANY:
        text = "Your account may not do that. Whoever looks after the studio says what it may."
        return refusal(request, status=403, title="Not by this account.", text=text)
    text = "Giusto answers only on the machine it runs on, and shows each player only their own takes."
    return refusal(request, status=403, title="Not from here.", text=text)


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403 for a form that did not come from our own page."""
    text = "The page was too old to be sent. Load it again and repeat; notes played are kept."
    return refusal(request, status=403, title="Load the page again.", text=text)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """404."""
    return refusal(request, status=404, title="Nothing hangs here.", text="There is no page at this address.")


def server_error(request: HttpRequest) -> HttpResponse:
    """500."""
    text = "Something failed on our side, and is written to the log. What you played is kept."
    return refusal(request, status=500, title="That went wrong.", text=text)
