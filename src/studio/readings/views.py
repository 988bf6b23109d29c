"""Pages: the reading of a take, standing and in full, one silence by itself, another take pinned beside."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

import giusto
from giusto.advice import advise
from giusto.reading import CLOSELY, parse
from giusto.schedule import Schedule
from studio.drills.sentence import short
from studio.readings.beside import beside
from studio.readings.history import History, history
from studio.readings.next_step import said
from studio.readings.table import table
from studio.readings.words import sentence
from studio.sheet.layout import PHONE, STANDING, STANDING_PHONE, TABLET, WIDE
from studio.sheet.picture import draw_alone, draw_standing, draw_take
from studio.takes.forms import NoteForm
from studio.takes.models import Reading, Take
from studio.takes.reading import plan_of, read_take

PINNED = "pinned"  # in the session: the take that others are set beside


@require_GET
def latest(request: HttpRequest) -> HttpResponse:
    """Lead to the newest reading, or to the first drill where there is none."""
    take = Take.objects.visible_to(request.user).ended().order_by("-started_at").first()
    return redirect(take) if take else render(request, "readings/none.html")


@require_GET
def reading(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Show what a take's time did: in full, or what can be read from two metres."""
    take = own(request, take_id)
    if not take.ended_how:
        return render(request, "takes/unfinished.html", {"take": take}, status=409)
    result, plan = current(take), plan_of(take)
    context: dict[str, Any] = {"take": take, "plan": plan, "refusal": result.refusal, "form": NoteForm(instance=take)}
    context["is_pinned"] = request.session.get(PINNED) == str(take.pk)
    if result.refusal:
        return render(request, "readings/reading.html", context)
    past = history(take, result.spec)
    advice = advise(plan.drill, parse(result.spec), before=past.held_before)
    context |= {"words": sentence(plan, result.spec), "next": said(advice, take), "past": past}
    if request.GET.get("view") == "standing":
        drawn = {"spec": result.spec, "thread": result.thread}
        context["pictures"] = [draw_standing(plan, columns, **drawn) for columns in (STANDING, STANDING_PHONE)]
        return render(request, "readings/standing.html", context)
    context |= _in_full(take, plan, result, past)
    context["beside"] = beside(_pinned(request, take), take)
    return render(request, "readings/reading.html", context)


@require_GET
def silence(request: HttpRequest, take_id: UUID, number: int) -> HttpResponse:
    """Show one silence of a take by itself, at full height, note by note."""
    take = own(request, take_id)
    result, plan = current(take), plan_of(take)
    if result.refusal or not 1 <= number <= len(plan.silences):
        raise Http404
    spec, span = result.spec, plan.silences[number - 1]
    start_s, end_s = float(plan.seconds(span.start_tick)), float(plan.seconds(span.end_tick))
    context = {
        "take": take,
        "silence": silence_rows(plan, spec)[number - 1],
        "last": len(plan.silences),
        "picture": draw_alone(plan, number, spec=spec, thread=result.thread) if result.thread else None,
        "notes": [note for note in spec["matches"] if start_s - 1e-6 <= note["expected_s"] <= end_s + 1e-6],
        "missed": [note for note in spec["missed"] if start_s - 1e-6 <= note["expected_s"] <= end_s + 1e-6],
        "place_ms": spec["heard"]["mean_error_ms"] or 0.0,
    }
    return render(request, "readings/silence.html", context)


@require_POST
def pin(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Pin a take, so that others are set beside it; a pinned one is taken down."""
    take = own(request, take_id)
    if request.session.get(PINNED) == str(take.pk):
        del request.session[PINNED]
        messages.success(request, "The pin is taken out.")
    else:
        request.session[PINNED] = str(take.pk)
        messages.success(request, "Pinned. Each reading that you open now is set beside this take.")
    return redirect(take)


def own(request: HttpRequest, take_id: UUID) -> Take:
    """Return a take that the player may see."""
    return get_object_or_404(Take.objects.visible_to(request.user).select_related("reading"), pk=take_id)


def current(take: Take) -> Reading:
    """Return a take's reading by the core as it is now; one by another core is read anew."""
    result = getattr(take, "reading", None)
    if result is None or result.core_version != giusto.__version__:
        return read_take(take)
    if not result.refusal:
        result.spec = parse(result.spec).plain()  # every field of this version
    return result


def silence_rows(plan: Schedule, spec: dict[str, Any]) -> list[dict[str, Any]]:
    """Return the silences of a reading with their number, what was asked, and whether they were caught closely."""
    counts = [plan.asked_in(silence) for silence in plan.silences]
    return [
        {**silence, "number": number, "asked": asked, "is_close": silence["notes"] >= CLOSELY * asked}
        for number, (silence, asked) in enumerate(zip(spec["silences"], counts, strict=True), start=1)
    ]


def _in_full(take: Take, plan: Schedule, result: Reading, past: History) -> dict[str, Any]:
    """Return what the page shows beside verdict and advice."""
    spec = result.spec
    return {
        "spec": spec,
        "pictures": [draw_take(plan, columns, spec=spec, thread=result.thread) for columns in (WIDE, TABLET, PHONE)],
        "silences": silence_rows(plan, spec),
        "counts": spec["onsets"],
        "short": short(plan.drill),
        "rows": table(spec, take.drill, past),
    }


def _pinned(request: HttpRequest, take: Take) -> Take | None:
    pinned = request.session.get(PINNED)
    if not pinned or pinned == str(take.pk):
        return None
    other = Take.objects.visible_to(request.user).ended().filter(pk=pinned).select_related("reading").first()
    if other:
        other.reading = current(other)
    return other
