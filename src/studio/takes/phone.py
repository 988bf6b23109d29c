"""A phone beside the drum is the ear of the desk: the desk plays and shows, the phone listens.

Each of both asks the server for its time, and so knows how its own clock lies against it, to half of the quickest
answer. Where the phone hears the click as well, the click joins the clocks exactly, and nothing rests on that.
"""

from __future__ import annotations

import json
from datetime import timedelta
from uuid import UUID

from django.db import transaction
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from giusto.hearing.inputs import Input
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.accounts.requests import PlayerRequest
from studio.hearing.actions import note_phone
from studio.hearing.models import ear_of
from studio.takes.api import answers_in_json
from studio.takes.heard import PhoneClock
from studio.takes.messages import FromPhone, MessageError, read_message
from studio.takes.models import Reading, Take
from studio.takes.pieces import keep_pieces
from studio.takes.policies import may_change
from studio.takes.waiting import read_later, read_soon

LATELY = timedelta(hours=2)  # ours: no take lasts longer
HERE = timedelta(seconds=8)  # ours: a phone that asked so lately listens


@require_safe
def page(request: PlayerRequest) -> HttpResponse:
    """Let this device be the ear of another."""
    plan = {"by": Input.MICROPHONE, "microphone": "", "room": None}
    return render(request, "takes/phone.html", {"ear": json.dumps(plan)})


@require_http_methods(["GET", "HEAD", "POST"])
def now(request: PlayerRequest) -> HttpResponse:
    """Say the server's time, which take a phone shall listen to, and to the desk whether one listens: a phone posts."""
    if request.method == "POST":
        note_phone(player=request.user)
    at, seen = timezone.now(), ear_of(request.user).phone_at
    played = Take.objects.of(request.user).filter(input=Input.PHONE, ended_how="", started_at__gte=at - LATELY)
    take = played.filter(deleted_at=None).order_by("-started_at").values_list("pk", flat=True).first()
    is_here = seen is not None and at - seen < HERE
    return JsonResponse({"now_ms": at.timestamp() * 1000, "take": take and str(take), "listens": is_here})


@require_POST
@answers_in_json
def sound(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Keep what a phone heard of a take; once it is over and all is here, it is read."""
    take = get_object_or_404(Take.objects.of(request.user), pk=take_id)
    message = read_message(FromPhone, request.body)
    ended = add_sound(player=request.user, take=take, message=message)
    if message.over and ended.ended_how and not Reading.objects.filter(take=ended).exists():
        if ended.pieces.exists():
            read_later(ended)
        else:
            read_soon(ended)
    return JsonResponse({"kept": True})


@transaction.atomic
def add_sound(*, player: Player, take: Take, message: FromPhone) -> Take:
    """Keep sound of a phone, and how its clock lies against the drill's, the best that was told.

    Raises
    ------
    MessageError
        Where the take is heard otherwise, or the desk knows nothing of the server's time.
    """
    take = Take.objects.select_for_update().get(pk=take.pk)
    require(may_change(player, take))
    zero_ms = take.device.zero_server_ms
    if take.input != Input.PHONE or zero_ms is None:
        raise MessageError("this take is heard by no phone", code="input")
    if take.hearing.source is not None:  # what was heard stays gone
        return take
    zero_s = message.audio_s + (zero_ms - message.server_ms) / 1000
    half_s = (message.half_ms + (take.device.zero_half_ms or 0.0)) / 1000
    known = take.hearing.phone
    if known is None or half_s < known.half_s:
        joined = PhoneClock(rate_hz=message.rate_hz, zero_s=zero_s, half_s=half_s)
        take.hearing = take.hearing.but(phone=joined)
        take.save(update_fields=["hearing"])
    keep_pieces(take, message.sound)
    return take
