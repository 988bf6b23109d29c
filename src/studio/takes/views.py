"""Pages: play, and the log with what can be done to its takes."""

from __future__ import annotations

from uuid import UUID

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from giusto.drill import Drill, validate
from giusto.schedule import schedule
from giusto.simulate import Player as SimulatedPlayer
from studio.drills.models import reach_of
from studio.drills.reach import reach_plan
from studio.drills.sentence import short
from studio.drills.views import sentence_of
from studio.sheet.picture import big_row, draw_small
from studio.takes import actions
from studio.takes.archive import archive
from studio.takes.forms import NoteForm
from studio.takes.log import lines
from studio.takes.models import Take
from studio.takes.plan import plan_json, spoken

TAKES_A_PAGE = 30


@require_GET
def play(request: HttpRequest) -> HttpResponse:
    """Show the page on which a drill is played: a new one from its sentence, or a take's again."""
    form = sentence_of(request)
    if again := request.GET.get("again"):
        drill, simulated = _again(_own(request, again))
    elif form.is_valid():
        drill, simulated = form.made, form.simulated_player() if form.is_simulated else None
    else:
        return redirect(f"{reverse('drills:set')}?{request.GET.urlencode()}")
    small = draw_small(schedule(drill))
    context = {
        "drill": drill,
        "short": short(drill),
        "small": small,
        "row": big_row(drill),
        "simulated": simulated,
        "counts": spoken(drill),
        "plan": plan_json(drill, simulated=simulated, small=small.rows, reach=reach_plan(reach_of(request.user))),
    }
    return render(request, "takes/play.html", context)


@require_GET
def log(request: HttpRequest) -> HttpResponse:
    """List all takes, newest first."""
    takes = Take.objects.visible_to(request.user).ended().for_log()
    page = Paginator(takes, TAKES_A_PAGE).get_page(request.GET.get("page"))
    deleted = request.GET.get("deleted")
    context = {
        "page": page,
        "lines": lines(page.object_list),
        "has_demo": Take.objects.visible_to(request.user).filter(is_demo=True).exists(),
        "deleted": deleted if deleted == "demo" or _is_own(request, deleted) else None,
    }
    return render(request, "takes/log.html", context)


@require_POST
def annotate(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Keep the player's note on a take."""
    take = _own(request, take_id)
    form = NoteForm(request.POST, instance=take)
    if form.is_valid():
        actions.annotate_take(player=request.user, take=take, note=form.cleaned_data["note"])
        messages.success(request, "Note kept.")
    else:
        messages.error(request, f"The note was not kept: {form.errors['note'][0]}")
    return redirect(take)


@require_POST
def delete(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Delete a take; the log offers to undo it."""
    actions.delete_take(player=request.user, take=_own(request, take_id))
    return redirect(f"{reverse('takes:log')}?deleted={take_id}")


@require_POST
def restore(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Undo the deletion of a take."""
    take = get_object_or_404(Take.objects.of(request.user), pk=take_id)
    actions.restore_take(player=request.user, take=take)
    return redirect("takes:log")


@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Put the demo takes away, or bring them back."""
    if "back" in request.POST:
        actions.bring_back_demo(player=request.user)
        return redirect("takes:log")
    actions.put_away_demo(player=request.user)
    return redirect(f"{reverse('takes:log')}?deleted=demo")


@require_GET
def download(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Send a take as drill, onsets and reading in one zip."""
    take = _own(request, take_id)
    if not take.ended_how:
        return render(request, "takes/unfinished.html", {"take": take}, status=409)
    name = f"giusto-{take.started_at:%Y-%m-%d-%H%M}.zip"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(archive(take), content_type="application/zip", headers=headers)


def _again(take: Take) -> tuple[Drill, SimulatedPlayer | None]:
    """Return drill and player of a take; those of the demo are for the person to play."""
    by_itself = take.simulated and not take.is_demo
    return validate(take.drill), SimulatedPlayer(**take.simulated["player"]) if by_itself else None


def _own(request: HttpRequest, take_id: UUID | str) -> Take:
    takes = Take.objects.visible_to(request.user).select_related("reading")
    return get_object_or_404(takes, pk=_uuid(take_id))


def _uuid(text: UUID | str) -> UUID | None:
    try:
        return UUID(str(text))
    except ValueError:
        return None


def _is_own(request: HttpRequest, take_id: str | None) -> bool:
    return bool(take_id) and Take.objects.of(request.user).filter(pk=_uuid(take_id or "")).exists()
