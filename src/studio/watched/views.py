"""Figures, for whoever watches."""

from __future__ import annotations

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_safe

from studio.accounts.middleware import FORWARDED
from studio.watched.figures import figures


@login_not_required
@require_safe
def metrics(request: HttpRequest) -> HttpResponse:
    """Give the figures to whoever asks on the machine itself: what a proxy passes on finds nothing here."""
    if any(name in request.META for name in FORWARDED):
        raise Http404
    return HttpResponse(figures(), content_type="text/plain; version=0.0.4; charset=utf-8")
