"""Pages of a teacher: pupils at a glance, one pupil's lesson, months of all; what is said and asked for."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.contrib import messages
from django.core.exceptions import ObjectDoesNotExist
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from studio.accounts.looking import looked_at
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.accounts.requests import PlayerRequest
from studio.joining.models import Code, make_code, note
from studio.ladders.models import Ladder
from studio.pieces.models import Piece
from studio.progress.month import month_of
from studio.takes.models import Take
from studio.teaching import actions
from studio.teaching.addresses import see
from studio.teaching.forms import AssignmentForm, RemarkForm
from studio.teaching.glance import glance_of, glances
from studio.teaching.models import Assignment, Consent, Remark, consent_of
from studio.teaching.played import played_of
from studio.teaching.policies import may_let_in, may_teach

TAKES_SHOWN = 12
# What a lesson's page leads to, by its name there.
PAGES = {
    "today": "plan:today",
    "work": "work:page",
    "log": "log:page",
    "progress": "progress:page",
    "month": "progress:this-month",
}


@require_safe
def pupils(request: PlayerRequest) -> HttpResponse:
    """Show all pupils at a glance."""
    require(may_teach(request.user))
    return _pupils(request)


@require_POST
def code(request: PlayerRequest) -> HttpResponse:
    """Make a code that a pupil enters, and show it this once."""
    require(may_teach(request.user))
    return _pupils(request, code=make_code(request.user, Code.Kind.LESSON))


@require_safe
def pupil(request: PlayerRequest, player_id: int) -> HttpResponse:
    """Show a lesson's page: the last week and the next, for two people at one screen."""
    consent = _consent(request, player_id)
    note(consent.player, request.user, "opened your lesson's page")
    return _lesson(request, consent, AssignmentForm(teacher=request.user))


@require_POST
def let_in(request: PlayerRequest, player_id: int) -> HttpResponse:
    """Make a code for a pupil's new password, and show it this once."""
    consent = _consent(request, player_id)
    require(may_let_in(request.user, consent.player))
    letters = make_code(request.user, Code.Kind.BACK, whose=consent.player)
    return _lesson(request, consent, AssignmentForm(teacher=request.user), code=letters)


@require_POST
def remark(request: PlayerRequest, player_id: int) -> HttpResponse:
    """Say something of what a pupil played."""
    consent, form = _consent(request, player_id), RemarkForm(request.POST)
    if not form.is_valid():
        messages.error(request, "; ".join(str(text) for some in form.errors.values() for text in some))
        return redirect("teaching:pupil", player_id)
    found = form.cleaned_data
    about = _about(consent, found)
    said = actions.say(player=request.user, pupil=consent.player, text=found["text"], **about)
    messages.success(request, f"Said. {consent.player.display_name or consent.player.username} finds it on Today.")
    return redirect(see(consent.player, said.view, *said.place))


@require_POST
def change_remark(request: PlayerRequest, remark_id: int) -> HttpResponse:
    """Say something otherwise."""
    found = get_object_or_404(Remark.objects.select_related("player"), pk=remark_id, by=request.user)
    if text := request.POST.get("text", "").strip()[:1000]:
        actions.change_remark(player=request.user, remark=found, text=text)
    return redirect("teaching:pupil", found.player_id)


@require_POST
def assign(request: PlayerRequest, player_id: int) -> HttpResponse:
    """Ask a pupil to play something."""
    consent = _consent(request, player_id)
    form = AssignmentForm(request.POST, teacher=request.user)
    if not form.is_valid():
        return _lesson(request, consent, form, status=422)
    found = form.cleaned_data
    try:
        actions.assign(
            player=request.user, pupil=consent.player, what=found["what"], goal=found["goal"], due=found["due"]
        )
    except (ObjectDoesNotExist, ValueError):
        raise Http404 from None
    messages.success(request, "Asked for. It is theirs once they take it on.")
    return redirect("teaching:pupil", player_id)


@require_POST
def take_back(request: PlayerRequest, assignment_id: int) -> HttpResponse:
    """Take back what was asked."""
    found = get_object_or_404(Assignment, pk=assignment_id, by=request.user)
    actions.take_back(player=request.user, assignment=found)
    return redirect("teaching:pupil", found.player_id)


@require_safe
def months(request: PlayerRequest, year: int, number: int) -> HttpResponse:
    """Show the month of every pupil, a page each, for paper."""
    require(may_teach(request.user))
    if not 1 <= number <= 12 or not 2000 <= year <= 2200:
        raise Http404
    first, found = date(year, number, 1), []
    consents = Consent.objects.now().to(request.user).select_related("player", "teacher")
    for consent in consents.order_by("player__display_name", "player_id"):
        note(consent.player, request.user, f"looked at your month, {first:%B %Y}")
        with looked_at(consent.look), timezone.override(consent.player.time_zone or None):
            found.append(month_of(consent.player, first))
    return render(request, "teaching/months.html", {"months": found, "first": first})


def _pupils(request: PlayerRequest, *, code: str = "") -> HttpResponse:
    now = timezone.now()
    context = {"glances": glances(request.user, now), "code": code, "today": timezone.localdate(now)}
    return render(request, "teaching/pupils.html", context)


def _lesson(
    request: PlayerRequest, consent: Consent, form: AssignmentForm, *, code: str = "", status: int = 200
) -> HttpResponse:
    player, now = consent.player, timezone.now()
    with looked_at(consent.look), timezone.override(player.time_zone or None):
        takes = list(Take.objects.visible_to(player).ended().for_log()[:TAKES_SHOWN])
        glance = glance_of(consent, now)
        asked = Assignment.objects.filter(player=player, by=request.user, taken_back_at=None)[:20]
        context: dict[str, Any] = {
            "consent": consent,
            "pupil": player,
            "glance": glance,
            "takes": [(take, see(player, "readings:reading", take.pk)) for take in takes],
            "remarks": Remark.objects.filter(player=player, by=request.user).select_related(
                "take", "take__exercise", "ladder", "piece"
            )[:TAKES_SHOWN],
            "asked": [(one, played_of(one)) for one in asked],
            "form": form,
            "code": code,
            "pages": {name: see(player, page) for name, page in PAGES.items()},
        }
        return render(request, "teaching/pupil.html", context, status=status)


def _consent(request: PlayerRequest, player_id: int) -> Consent:
    """Return the consent by which the teacher looks at a pupil; there is no such pupil without one."""
    found = consent_of(Player(pk=player_id), request.user)
    if found is None:
        raise Http404
    return found


def _about(consent: Consent, found: dict[str, Any]) -> dict[str, Any]:
    """Return what a remark is about: something of the pupil's that the teacher may see."""
    player = consent.player
    if found["take"]:
        with looked_at(consent.look):  # of the takes that are shown
            takes = Take.objects.visible_to(player).select_related("exercise")
        return {"take": get_object_or_404(takes, pk=found["take"]), "silence": found["silence"]}
    if found["ladder"]:
        ladders = Ladder.objects.visible_to(player)
        return {"ladder": get_object_or_404(ladders, pk=found["ladder"]), "rung": found["rung"]}
    piece = get_object_or_404(Piece.objects.visible_to(player).kept(), pk=found["piece"])
    return {"piece": piece, "bar": found["bar"]}
