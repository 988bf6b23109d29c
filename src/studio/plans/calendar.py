"""The plan as a calendar: a file to take away, and a private address that any calendar reads."""

from __future__ import annotations

from datetime import timedelta

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

from giusto.plan.calendar_file import calendar_file
from studio.accounts.requests import PlayerRequest
from studio.plans.ahead import slots_ahead
from studio.plans.entries import named_now
from studio.plans.models import Routine

DAYS = 28  # ours: four weeks ahead


def calendar_of(routine: Routine) -> bytes:
    """Return the weeks ahead of a routine as an ``.ics`` file, by the routine's own clock."""
    named = named_now(routine)
    now = timezone.now()
    start = timezone.localtime(now).date()
    slots = slots_ahead(routine.player, named, start, start + timedelta(days=DAYS))
    return calendar_file(named.core, slots, made=now, alarm_minutes=routine.alarm_minutes)


@require_safe
def take_out(request: PlayerRequest) -> HttpResponse:
    """Send the weeks ahead as a file."""
    routine = Routine.objects.filter(player=request.user).select_related("player").first()
    if routine is None:
        raise Http404
    headers = {"Content-Disposition": f'attachment; filename="giusto-{timezone.localdate():%Y-%m-%d}.ics"'}
    return HttpResponse(calendar_of(routine), content_type="text/calendar; charset=utf-8", headers=headers)


@login_not_required
@require_safe
@never_cache
def feed(request: HttpRequest, token: str) -> HttpResponse:
    """Answer a calendar program that knows the private address; it needs no other key."""
    routine = Routine.objects.filter(token=token).select_related("player").first() if token else None
    if routine is None:
        raise Http404
    with timezone.override(routine.core.zone):
        return HttpResponse(calendar_of(routine), content_type="text/calendar; charset=utf-8")
