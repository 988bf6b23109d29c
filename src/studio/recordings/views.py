"""A recording made elsewhere: dropped on its page, heard behind it, followed until it is a take."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from studio.accounts.requests import PlayerRequest
from studio.drills.sentence.prose import tempo_words, title
from studio.drills.taken import taken_away
from studio.drills.views import sentence_of
from studio.limits import takes_its_time
from studio.recordings import actions
from studio.recordings.among import Candidate, among
from studio.recordings.forms import RecordingForm
from studio.recordings.models import Upload

SHOWN = 5  # recordings under way that the page of dropping lists


@takes_its_time
@require_http_methods(["GET", "HEAD", "POST"])
def drop(request: PlayerRequest) -> HttpResponse:
    """Take in a recording of the drill of a sentence, or say what is wrong; without one, of any drill."""
    if not request.GET:
        return _drop_any(request)
    sentence = sentence_of(request)
    if not sentence.is_valid():
        return redirect(f"{reverse('drills:set')}?{request.GET.urlencode()}")
    drill, words = sentence.made, request.GET.urlencode()
    form = _form(request)
    if form.is_bound and form.is_valid():
        upload = actions.take_in(
            player=request.user, drill=drill, origin=sentence.origin.key, words=words, **form.cleaned_data
        )
        return redirect(upload)
    context = {
        **_dropping(request, form),
        "drill": drill,
        "name": drill.name or title(drill),
        "tempo": tempo_words(drill),
        "words": words,
    }
    return render(request, "recordings/drop.html", context, status=422 if form.errors else 200)


def _drop_any(request: PlayerRequest) -> HttpResponse:
    """Take in a recording that was dropped without a word on its drill."""
    form = _form(request)
    if form.is_bound and form.is_valid():
        taken = [Candidate(drill, origin, "taken away lately") for drill, origin in taken_away(request)]
        return redirect(
            actions.take_in(player=request.user, among=among(request.user, taken), **form.cleaned_data),
        )
    return render(request, "recordings/drop.html", _dropping(request, form), status=422 if form.errors else 200)


def _form(request: PlayerRequest) -> RecordingForm:
    given = (request.POST, request.FILES) if request.method == "POST" else ()
    return RecordingForm(*given, player=request.user)


def _dropping(request: PlayerRequest, form: RecordingForm) -> dict[str, Any]:
    return {"form": form, "unfinished": Upload.objects.of(request.user).unfinished()[:SHOWN]}


@require_safe
def upload(request: PlayerRequest, upload_id: UUID) -> HttpResponse:
    """Say how far a recording is heard; lead to its take once it is one."""
    found = _own(request, upload_id)
    if found.take and not request.htmx:
        return redirect(found.take)
    template = "recordings/_progress.html" if request.htmx else "recordings/upload.html"
    response = render(request, template, {"upload": found})
    if found.take:
        response.headers["HX-Redirect"] = found.take.get_absolute_url()
    return response


@require_POST
def choose(request: PlayerRequest, upload_id: UUID, number: int) -> HttpResponse:
    """Hear a recording as one of a drill that it may be of."""
    found = _own(request, upload_id)
    try:
        actions.choose(player=request.user, upload=found, number=number)
    except IndexError:
        raise Http404 from None
    return redirect(found)


@require_POST
def cancel(request: PlayerRequest, upload_id: UUID) -> HttpResponse:
    """Stop hearing a recording and forget it."""
    found = _own(request, upload_id)
    actions.cancel(player=request.user, upload=found)
    return redirect(found)


def _own(request: PlayerRequest, upload_id: UUID) -> Upload:
    return get_object_or_404(Upload.objects.of(request.user).select_related("take"), pk=upload_id)
