"""Pages: the log, what was left while it was played, what was deleted."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from studio.accounts.models import Player
from studio.accounts.requests import PlayerRequest
from studio.drills.actions import empty_deleted as empty_drills
from studio.drills.models import OwnDrill
from studio.ids import uuid_of
from studio.log.lines import LogDay, days
from studio.log.search import SearchForm
from studio.plans.weeks import minutes_by_day
from studio.takes import actions
from studio.takes.models import Take
from studio.takes.waiting import read_soon
from studio.words import number

TAKES_A_PAGE = 30


@require_safe
def page(request: PlayerRequest) -> HttpResponse:
    """List all takes, newest first."""
    form = SearchForm(request.GET or None, player=request.user)
    takes = form.found(Take.objects.visible_to(request.user).ended()).order_by("-started_at")
    shown = Paginator(takes.values_list("pk", flat=True), TAKES_A_PAGE).get_page(request.GET.get("page"))
    asked = request.GET.copy()
    for name in ("page", "deleted"):
        asked.pop(name, None)
    deleted = request.GET.get("deleted")
    context = {
        "page": shown,
        "form": form,
        "asked": asked.urlencode(),
        "days": _days(request.user, list(shown.object_list)),
        "heading": heading(form.is_asked, shown.paginator.count),
        "left": Take.objects.visible_to(request.user).left().count(),
        "deleted": deleted if _is_own(request, deleted) else None,
    }
    return render(request, "log/page.html", context)


@require_POST
def end_left(request: PlayerRequest) -> HttpResponse:
    """End and read the takes that were left while they were played, and whose browser does not come back."""
    ended = actions.end_left(player=request.user)
    for take in ended:
        read_soon(take)
    messages.success(request, f"Ended: {len(ended)}.")
    return redirect("log:page")


@require_http_methods(["GET", "HEAD", "POST"])
def deleted(request: PlayerRequest) -> HttpResponse:
    """List what was deleted, each with its way back, until it is emptied."""
    if request.method == "POST":
        gone = actions.empty_deleted(player=request.user) + empty_drills(player=request.user)
        messages.success(request, f"Forgotten for good: {gone}.")
        return redirect("log:page")
    takes = Take.objects.deleted(request.user).order_by("-deleted_at").only("drill_name", "started_at", "deleted_at")
    shown = Paginator(takes, TAKES_A_PAGE).get_page(request.GET.get("page"))
    context = {"page": shown, "drills": OwnDrill.objects.deleted(request.user).order_by("-deleted_at")[:TAKES_A_PAGE]}
    return render(request, "log/deleted.html", context)


def heading(is_asked: bool, count: int) -> str:
    """Return how many takes there are, or were found."""
    many = "One take" if count == 1 else f"{number(count).capitalize()} takes"
    return f"{many} found" if is_asked else many


def _days(player: Player, takes: list[UUID]) -> list[LogDay]:
    """Return the lines of some takes by day, with what was played on all of each day."""
    some = list(Take.objects.filter(pk__in=takes).for_log())
    if not some:
        return []
    first, last = (timezone.localtime(one.started_at).date() for one in (some[-1], some[0]))
    return days(some, minutes_by_day(player, first, last + timedelta(days=1)))


def _is_own(request: PlayerRequest, take_id: str | None) -> bool:
    return bool(take_id) and Take.objects.of(request.user).filter(pk=uuid_of(take_id)).exists()
