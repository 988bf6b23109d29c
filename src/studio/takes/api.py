"""What the browser sends while a take is played: JSON in, JSON out, safe to send twice."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any
from uuid import UUID

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_POST

from giusto.errors import GiustoError
from studio.sheet.picture import draw_silence, draw_small
from studio.sheet.words import became, returned
from studio.takes import actions
from studio.takes.messages import Begin, End, Notes, read_message
from studio.takes.models import Take
from studio.takes.reading import heard, known_of, thread_json

View = Callable[..., HttpResponse]


def answers_in_json(view: View) -> View:
    """Turn what an action refuses into one clear JSON line."""

    @wraps(view)
    def answered(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        try:
            return view(request, *args, **kwargs)
        except GiustoError as error:
            return JsonResponse({"error": str(error), "code": error.code}, status=422)
        except PermissionDenied:
            return JsonResponse({"error": "this take is another player's"}, status=403)

    return answered


@require_POST
@answers_in_json
def begin(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Begin a take."""
    message = read_message(Begin, request.body)
    actions.begin_take(player=request.user, take_id=take_id, message=message)
    return JsonResponse({"kept": True})


@require_POST
@answers_in_json
def batch(request: HttpRequest, take_id: UUID, number: int) -> HttpResponse:
    """Keep a batch of notes."""
    message = read_message(Notes, request.body)
    is_new = actions.add_batch(player=request.user, take=_own(request, take_id), number=number, message=message)
    return JsonResponse({"kept": True, "new": is_new})


@require_POST
@answers_in_json
def end(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """End a take and read it; 409 names the batches that are still missing."""
    message = read_message(End, request.body)
    try:
        take = actions.end_take(player=request.user, take=_own(request, take_id), message=message)
    except actions.BatchesMissingError as error:
        return JsonResponse({"error": str(error), "missing": error.numbers}, status=409)
    return JsonResponse({"kept": True, "reading": f"{take.get_absolute_url()}?view=standing"})


@require_POST
@answers_in_json
def discard(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Put away a take that the player stopped to forget."""
    actions.delete_take(player=request.user, take=_own(request, take_id))
    return JsonResponse({"kept": False})


@require_GET
@answers_in_json
def last_silence(request: HttpRequest, take_id: UUID, number: int) -> HttpResponse:
    """Show one silence of a take that is still being played."""
    take = _own(request, take_id)
    material = heard(take)
    analysis = material.analysis(known_of(take))
    if analysis.thread is None or not 1 <= number <= len(analysis.reading.silences):
        return HttpResponse(status=204)
    spec, thread = analysis.reading.plain(), thread_json(analysis.thread)
    silence = spec["silences"][number - 1]
    context = {
        "hanging": draw_silence(material.plan, number, spec=spec, thread=thread),
        "small": draw_small(material.plan, _so_far(spec)),
        "number": returned(silence),
        "became": "" if silence["tempo_bpm"] is None else became(silence, take.tempo_bpm),
    }
    return render(request, "takes/_last_silence.html", context)


def _so_far(spec: dict[str, Any]) -> dict[str, Any]:
    """Return a reading without the notes that are still to be played."""
    last_s = spec["matches"][-1]["expected_s"]
    return {**spec, "missed": [note for note in spec["missed"] if note["expected_s"] < last_s]}


def _own(request: HttpRequest, take_id: UUID) -> Take:
    return get_object_or_404(Take.objects.of(request.user), pk=take_id)
