"""A player's own drills: kept, changed, copied, deleted, brought in and taken out."""

from __future__ import annotations

from uuid import UUID

from django.contrib import messages
from django.http import HttpResponse, JsonResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from giusto.drill import Drill
from giusto.drill.family import family_of
from studio.accounts.models import Player
from studio.accounts.requests import PlayerRequest
from studio.drills import actions
from studio.drills.actions import KeepError
from studio.drills.files import Found, drills_zip, read_uploads
from studio.drills.forms import DeliveryForm, KeepForm
from studio.drills.models import Delivery, OwnDrill, delivery_of
from studio.drills.origin import of_own, origin_of
from studio.drills.sentence.form import SentenceForm
from studio.drills.views import page


@require_POST
def keep(request: PlayerRequest) -> HttpResponse:
    """Keep the drill of the sentence: as a new one, or in place of the own one it came from."""
    form = KeepForm(request.POST, auto_id="id_keep_%s")
    words = QueryDict(request.POST.get("words", ""))
    sentence = SentenceForm(words, origin=origin_of(request.user, words.get("drill")))
    if not sentence.is_valid():
        return redirect(f"{reverse('drills:set')}?{words.urlencode()}")
    if form.is_valid():
        asked = {"drill": sentence.made, "name": form.cleaned_data["name"], "family": form.cleaned_data["family"]}
        own = sentence.origin.own
        try:
            if own and "change" in request.POST:
                kept = actions.change_drill(player=request.user, own=own, **asked)
            else:
                kept = actions.keep_drill(player=request.user, **asked)
        except KeepError as error:
            form.add_error("name", str(error))
        else:
            messages.success(request, f"Kept: {kept.name}.")
            return redirect(kept)
    return page(request, sentence, keep=form, status=422)


@require_POST
def copy(request: PlayerRequest, own_id: UUID) -> HttpResponse:
    """Copy a drill, and show the copy."""
    return redirect(actions.copy_drill(player=request.user, own=_own(request, own_id)))


@require_POST
def delete(request: PlayerRequest, own_id: UUID) -> HttpResponse:
    """Delete a drill; the page offers to undo it."""
    actions.delete_drill(player=request.user, own=_own(request, own_id))
    return redirect(f"{reverse('drills:set')}?deleted={own_id}")


@require_POST
def restore(request: PlayerRequest, own_id: UUID) -> HttpResponse:
    """Undo the deletion of a drill."""
    own = get_object_or_404(OwnDrill.objects.of(request.user), pk=own_id)
    return redirect(actions.restore_drill(player=request.user, own=own))


@require_http_methods(["GET", "HEAD", "POST"])
def bring_in(request: PlayerRequest) -> HttpResponse:
    """Bring in drill files: the good ones are kept, of the others each fault is told."""
    found = read_uploads(request.FILES.getlist("files")) if request.method == "POST" else []
    kept, faulty = [], [item for item in found if not item.drill]
    for item in found:
        try:
            if item.drill:
                kept.append(_keep_found(request.user, item.drill))
        except actions.KeepError as error:
            faulty.append(Found(item.file, None, (str(error),)))
    nothing = request.method == "POST" and not found
    context = {"kept": kept, "faulty": faulty, "nothing": nothing}
    return render(request, "drills/import.html", context, status=422 if faulty or nothing else 200)


@require_safe
def take_out(request: PlayerRequest) -> HttpResponse:
    """Send all own drills as a zip."""
    own = OwnDrill.objects.visible_to(request.user)
    name = f"giusto-drills-{timezone.localdate():%Y-%m-%d}.zip"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(drills_zip(of_own(o).drill for o in own), content_type="application/zip", headers=headers)


@require_POST
def set_delivery(request: PlayerRequest) -> HttpResponse:
    """Set how the click reaches the player."""
    form = DeliveryForm(request.POST, instance=delivery_of(request.user))
    if form.is_valid():
        actions.set_delivery(player=request.user, **form.cleaned_data)
        form = DeliveryForm(instance=delivery_of(request.user))
    if request.htmx:
        return render(request, "drills/_delivery.html", {"delivery": form})
    if form.errors:
        messages.error(request, str(form.non_field_errors()[0]) if form.non_field_errors() else "That is not a choice.")
    return redirect("drills:set")


@require_POST
def set_loudness(request: PlayerRequest) -> HttpResponse:
    """Keep how loud the click is, as it was set by key while it ran."""
    level = request.POST.get("level", "")
    if level not in Delivery.Level:
        return JsonResponse({"error": f"level must be one of {', '.join(Delivery.Level)}"}, status=422)
    actions.set_delivery(player=request.user, level=level)
    return HttpResponse(status=204)


@require_http_methods(["GET", "HEAD", "POST"])
def care(request: PlayerRequest) -> HttpResponse:
    """Say a word on hearing and on rests; once read, it stays in reach."""
    if request.method == "POST":
        actions.set_delivery(player=request.user, care_read_at=timezone.now())
        return redirect(f"{reverse('drills:set')}?{request.POST.get('words', '')}")
    return render(request, "drills/care.html")


def _keep_found(player: Player, drill: Drill) -> OwnDrill:
    name = actions.free_name(player, drill.name.strip() or "Without a name")
    return actions.keep_drill(player=player, drill=drill, name=name, family=family_of(drill))


def _own(request: PlayerRequest, own_id: UUID) -> OwnDrill:
    return get_object_or_404(OwnDrill.objects.visible_to(request.user), pk=own_id)
