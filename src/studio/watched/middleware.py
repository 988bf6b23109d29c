"""Counts requests, and gives each a number that its lines in the log have."""

from __future__ import annotations

from collections.abc import Callable
from http import HTTPStatus
from uuid import uuid4

from django.http import HttpRequest, HttpResponse

from studio.watched.figures import BATCHES, REQUESTS
from studio.watched.lines import REQUEST


class FiguresMiddleware:
    """Look on, before all else."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, and count."""
        number = request.headers.get("X-Request-Id", "")[:64]
        name = number if number.isalnum() else uuid4().hex
        REQUEST.set(name)  # and not given back: Django tells of what went wrong after this
        response = self.get_response(request)
        match = request.resolver_match
        kind = match.view_name if match else "none"
        REQUESTS.labels(kind, f"{response.status_code // 100}xx").inc()
        if kind == "takes:batch" and response.status_code == HTTPStatus.OK:
            is_new = b'"new": true' in response.content
            BATCHES.labels("first" if is_new else "again").inc()
        response.headers["X-Request-Id"] = name
        return response
