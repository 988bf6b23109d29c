"""Page: what a player is working on."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_safe

from studio.accounts.requests import PlayerRequest
from studio.ids import uuid_of
from studio.ladders.models import Ladder
from studio.plans.models import Routine
from studio.work.due import taken_down, work_of

LONGEST_FIND = 120  # characters


@require_safe
def page(request: PlayerRequest) -> HttpResponse:
    """List exercises and pieces by when they are due; only some of them by ``?find=``."""
    player, find = request.user, request.GET.get("find", "").strip()[:LONGEST_FIND]
    deleted = Ladder.objects.taken_down(player).filter(pk=uuid_of(request.GET.get("deleted"))).first()
    context = {
        "work": work_of(player, timezone.now(), find),
        "find": find,
        "deleted": deleted,
        "routine": Routine.objects.filter(player=player).first(),
        **taken_down(player),
    }
    return render(request, "work/page.html", context)
