"""Pages of a pupil: who teaches them and sees what, what was said and asked, what is shown by a link."""

from __future__ import annotations

from uuid import UUID

from django.contrib import messages
from django.db.models import Q
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from giusto.errors import GiustoError
from studio.accounts.requests import PlayerRequest
from studio.drills.actions import KeepError
from studio.joining.models import LESSON, Code
from studio.ladders.actions import ClimbError
from studio.pieces.actions import PieceError
from studio.takes.models import Take
from studio.teaching import actions
from studio.teaching.forms import ConsentForm
from studio.teaching.models import Assignment, Consent, Remark

SHOWN = 50


@require_safe
def teachers(request: PlayerRequest) -> HttpResponse:
    """Show who teaches the player and what they see; all that was said and asked."""
    player = request.user
    about = ("take", "take__exercise", "ladder", "piece")
    context = {
        "consents": Consent.objects.now().of(player).select_related("teacher"),
        "remarks": Remark.objects.filter(player=player).select_related(*about)[:SHOWN],
        "assignments": Assignment.objects.filter(player=player)[:SHOWN],
    }
    return render(request, "teaching/teachers.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def consent(request: PlayerRequest) -> HttpResponse:
    """Say what a teacher may see, after their code was entered."""
    number = request.session.get(LESSON) or 0
    used = Code.objects.filter(pk=number).exclude(used_at=None).select_related("player").first()
    if used is None or used.player == request.user:
        return redirect("joining:join")
    form = ConsentForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            actions.agree(
                player=request.user,
                teacher=used.player,
                scopes=form.cleaned_data["scopes"],
                since=form.since_day,
                until=form.cleaned_data["until"],
            )
        except actions.ConsentError as error:
            form.add_error("until", str(error))
        else:
            del request.session[LESSON]
            messages.success(request, "Agreed. You can end it here at any time, at once.")
            return redirect("teaching:teachers")
    context = {"form": form, "teacher": used.player}
    return render(request, "teaching/consent.html", context, status=422 if form.errors else 200)


@require_POST
def withdraw(request: PlayerRequest, consent_id: int) -> HttpResponse:
    """End a consent at once, as pupil or as teacher."""
    found = get_object_or_404(Consent, Q(player=request.user) | Q(teacher=request.user), pk=consent_id)
    actions.withdraw(player=request.user, consent=found)
    messages.success(request, "Ended.")
    return redirect("teaching:teachers" if found.player_id == request.user.pk else "teaching:pupils")


@require_POST
def remark_away(request: PlayerRequest, remark_id: int) -> HttpResponse:
    """Put a remark away from Today."""
    found = get_object_or_404(Remark, pk=remark_id, player=request.user)
    actions.put_remark_away(player=request.user, remark=found)
    return redirect("plan:today" if "today" in request.POST else "teaching:teachers")


@require_POST
def accept(request: PlayerRequest, assignment_id: int) -> HttpResponse:
    """Take on what was asked."""
    found = get_object_or_404(Assignment, pk=assignment_id, player=request.user)
    try:
        actions.accept(player=request.user, assignment=found)
    except (KeepError, ClimbError, PieceError, GiustoError) as error:
        messages.error(request, f"It can’t be taken on: {error}")
    except (KeyError, TypeError, ValueError):  # it came in with an archive, and is not what a teacher gives
        messages.error(request, "It can’t be taken on: it is not whole.")
    else:
        messages.success(request, "It is yours now.")
    return redirect("teaching:teachers")


@require_POST
def assignment_away(request: PlayerRequest, assignment_id: int) -> HttpResponse:
    """Put away what was asked."""
    found = get_object_or_404(Assignment, pk=assignment_id, player=request.user)
    actions.put_away(player=request.user, assignment=found)
    return redirect("teaching:teachers")


@require_POST
def show(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Make a link by which anybody sees a reading for some days; or end it."""
    take = get_object_or_404(Take.objects.visible_to(request.user), pk=take_id)
    days = request.POST.get("days", "")
    if days.isdecimal() and len(days) < 3:
        actions.show(player=request.user, take=take, days=int(days))
    else:
        actions.hide(player=request.user, take=take)
    return redirect(take)
