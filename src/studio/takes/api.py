"""What the browser sends while a take is played: JSON in, JSON out, safe to send twice."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any
from uuid import UUID

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpResponse, JsonResponse, RawPostDataException
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from giusto.errors import GiustoError
from giusto.hearing.inputs import Input
from studio.accounts.requests import PlayerRequest
from studio.sheet.picture import draw_silence, draw_small
from studio.sheet.words import became, returned
from studio.takes import actions
from studio.takes.asked_silence import answer, ask
from studio.takes.ceilings import parted
from studio.takes.last_silence import silence_of
from studio.takes.messages import Begin, End, Notes, read_message
from studio.takes.models import Reading, Take
from studio.takes.plan import plan_of
from studio.takes.playback import sentence_address
from studio.takes.waiting import read_soon

View = Callable[..., HttpResponse]


def answers_in_json(view: View) -> View:
    """Turn what an action refuses into one clear JSON line."""

    @wraps(view)
    def answered(request: PlayerRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        try:
            return view(request, *args, **kwargs)
        except actions.EndedError as error:
            return JsonResponse({"error": str(error), "code": error.code}, status=409)
        except GiustoError as error:
            return JsonResponse({"error": str(error), "code": error.code}, status=422)
        except RawPostDataException:  # it came as a form, which was read for its token
            return JsonResponse({"error": "the body must be JSON, not a form", "code": "not_json"}, status=422)
        except PermissionDenied:
            return JsonResponse({"error": "this take is another player's"}, status=403)

    return answered


@require_POST
@answers_in_json
def begin(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Begin a take."""
    message = read_message(Begin, request.body)
    actions.begin_take(player=request.user, take_id=take_id, message=message)
    return JsonResponse({"kept": True})


@require_POST
@answers_in_json
def batch(request: PlayerRequest, take_id: UUID, number: int) -> HttpResponse:
    """Keep a batch of notes."""
    take = _own(request, take_id)
    message = read_message(Notes, request.body)
    is_new = actions.add_batch(player=request.user, take=take, number=number, message=message)
    return JsonResponse({"kept": True, "new": is_new})


@require_POST
@answers_in_json
def end(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """End a take, then read it; 409 names the batches that are still missing. One without a note is put away.

    The end is kept before the reading begins, which may fail or take long: the take's page says so then.
    """
    take = _own(request, take_id)
    message = read_message(End, request.body)
    try:
        ended = actions.end_take(player=request.user, take=take, message=message)
    except actions.BatchesMissingError as error:
        return JsonResponse({"error": str(error), "missing": error.numbers}, status=409)
    if not ended.has_notes:
        actions.delete_take(player=request.user, take=ended)
        messages.info(request, "Nothing was played, so nothing is kept.")
        return JsonResponse({"kept": False, "reading": sentence_address(take)})
    if ended.input == Input.PHONE:  # its last sound is still on its way, and says that it is the last
        return JsonResponse({"kept": True, "reading": take.get_absolute_url()})
    if not Reading.objects.filter(take=take).exists():
        read_soon(ended)  # no request listens to sound: then its page says that it is being read
    return JsonResponse({"kept": True, "reading": take.get_absolute_url()})


@require_POST
@answers_in_json
def discard(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Put away a take that the player stopped to forget."""
    actions.delete_take(player=request.user, take=_own(request, take_id))
    return JsonResponse({"kept": False})


@require_http_methods(["GET", "HEAD", "POST"])
@answers_in_json
def last_silence(request: PlayerRequest, take_id: UUID, number: int) -> HttpResponse:
    """Show one silence of a take that is still being played; only the notes about it are read.

    Where it must be heard in sound, posting asks the worker for it, and until it is heard the answer is 202.
    """
    take = _own(request, take_id)
    plan = plan_of(take)
    if not 1 <= number <= len(plan.silences):
        return HttpResponse(status=204)
    if request.method == "POST":
        ask(take, number)
        return HttpResponse(status=202)
    waits, told = answer(take, number) if take.hearing.is_by_sound else (False, silence_of(take, plan, number))
    if told is None:
        return HttpResponse(status=202 if waits else 204)
    context = {
        "hanging": draw_silence(plan, number, silence=told.silence, thread=told.thread),
        "small": draw_small(plan, told.onset_s),
        "number": returned(told.silence),
        "became": became(told.silence, plan.bpm_in(plan.silences[number - 1])),
    }
    return render(request, "takes/_last_silence.html", context)


@require_safe
@answers_in_json
def has_parted(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Say whether notes and a climbing click have parted by a moment of drill time: then nothing more is known."""
    take = _own(request, take_id)
    try:
        until_s = float(request.GET.get("at", ""))
    except ValueError:
        until_s = 0.0
    return JsonResponse({"parted": parted(take, until_s)})


def _own(request: PlayerRequest, take_id: UUID) -> Take:
    return get_object_or_404(Take.objects.of(request.user).select_related("exercise"), pk=take_id)
