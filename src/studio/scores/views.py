"""A score that is read behind its page: how far it is, and what it became."""

from __future__ import annotations

from uuid import UUID

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_safe

from studio.accounts.requests import PlayerRequest
from studio.scores.models import ScoreFile


@require_safe
def score(request: PlayerRequest, score_id: UUID) -> HttpResponse:
    """Say that a score is being read or what is wrong with it; lead to what was made of it."""
    found = get_object_or_404(ScoreFile.objects.of(request.user).defer("content"), pk=score_id)
    if found.leads_to and not request.htmx:
        if found.told:
            messages.info(request, found.told)
        return redirect(found.leads_to)
    template = "scores/_progress.html" if request.htmx else "scores/score.html"
    response = render(request, template, {"score": found})
    if found.leads_to:
        response.headers["HX-Redirect"] = found.get_absolute_url()
    return response
