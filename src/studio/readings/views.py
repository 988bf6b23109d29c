"""Pages: the reading of a take, standing and in full, one silence by itself, another take pinned beside."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

import giusto
from giusto.drill import Drill
from giusto.figures.silence import SilenceReading
from giusto.practice.clean import LIMITS
from giusto.practice.judge import Judgement, judge
from giusto.reading import Reading as CoreReading
from giusto.reading.analyse import CLOSELY
from giusto.schedule import Schedule
from studio.accounts.requests import PlayerRequest
from studio.drills.sentence.prose import drill_words
from studio.hearing.models import ear_of
from studio.hearing.pads import pad_name
from studio.readings.ceiling import fast
from studio.readings.climbed import climbed
from studio.readings.comparison import compared
from studio.readings.flow import following
from studio.readings.history import History, history
from studio.readings.next_step import said
from studio.readings.nth import nth_of_day
from studio.readings.place_picture import draw_place
from studio.readings.since import since_first
from studio.readings.table import in_two_steps, table
from studio.readings.tempo_picture import draw_tempo
from studio.readings.words import WITH_CLICK, Sentence, is_free, sentence
from studio.sheet.layout import PHONE, PHONE_LINE, STANDING, STANDING_PHONE, TABLET, WIDE
from studio.sheet.picture import draw_alone, draw_standing, draw_take
from studio.sheet.rows import first_withheld
from studio.takes.actions import mark_sections
from studio.takes.ceilings import probe_address
from studio.takes.choice import exercises_of
from studio.takes.facts import shown_by
from studio.takes.forms import NoteForm, SectionsForm
from studio.takes.models import Reading, Take
from studio.takes.plan import plan_of
from studio.takes.waiting import read_soon

PINNED = "pinned"  # in the session: the take that others are set beside


@require_safe
def latest(request: PlayerRequest) -> HttpResponse:
    """Lead to the newest reading, or to the first drill where there is none."""
    take = Take.objects.visible_to(request.user).ended().order_by("-started_at").first()
    if take is None:
        return render(request, "readings/none.html")
    return redirect(f"{take.get_absolute_url()}{'?view=standing' if request.GET.get('view') == 'standing' else ''}")


@require_safe
def reading(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Show what a take's time did: in full, or what can be read from two metres."""
    take = own(request, take_id)
    if not take.ended_how:
        return render(request, "takes/unfinished.html", {"take": take}, status=409)
    row = getattr(take, "reading", None)
    if row is None:
        return render(request, "readings/being_read.html", {"take": take}, status=202)
    if request.htmx:  # the page that waited for it
        return HttpResponse(headers={"HX-Refresh": "true"})
    plan, found = plan_of(take), row.found
    context: dict[str, Any] = {"take": take, "plan": plan, "row": row, "form": NoteForm(instance=take)}
    context["is_pinned"] = request.session.get(PINNED) == str(take.pk)
    context["exercises"] = exercises_of(request.user)
    context["is_older"] = row.core_version != giusto.__version__
    context |= {"climb": climbed(take), "fast": fast(take, plan), "flow": following(take)}
    context |= {"played": drill_words(plan.drill), "nth": nth_of_day(take)}
    if take.exercise and context["fast"] is None:
        context["fast_url"] = probe_address(plan.drill, take.exercise)
    if found is None:
        return render(request, "readings/reading.html", context)
    climb = context["climb"]
    past = history(take, found, climb.standing.ladder.limits if climb else LIMITS)
    judgement = judge(plan, found, before=past.before, known=past.known, shown=shown_by(row))
    words = sentence(judgement, found, plan.drill)
    if (asked_for := context["fast"]) and asked_for.headline:
        words = Sentence(asked_for.headline, lead=[], standing=[])
    context |= {"words": words, "next": said(judgement, take, plan.drill, _leading(context)), "judgement": judgement}
    context["past"] = past
    if request.GET.get("view") == "standing":
        context["place"] = draw_place(found, judgement.verdict) if judgement.verdict.code in WITH_CLICK else None
        context["tempo"] = draw_tempo(found.tempo, is_own=False) if is_free(found) and found.tempo else None
        columns = () if context["place"] or is_free(found) else (STANDING, STANDING_PHONE)
        context["pictures"] = [draw_standing(plan, one, reading=found, thread=row.hanging) for one in columns]
        return render(request, "readings/standing.html", context)
    if request.GET.get("view") == "notes" and not is_free(found):
        each = (WIDE, TABLET, PHONE)
        context["pictures"] = [draw_take(plan, one, reading=found, thread=row.hanging) for one in each]
        return render(request, "readings/notes.html", context)
    context |= _in_full(take, plan, row, found, judgement, past)
    if found.tempo:
        context["tempo"] = draw_tempo(found.tempo, is_own=request.GET.get("against") == "start")
    context["pinned"] = compared(_pinned(request, take), take)
    return render(request, "readings/reading.html", context)


@require_POST
def read(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Read a take now: one that was not read yet, or by an earlier core."""
    take = own(request, take_id)
    if take.ended_how:
        read_soon(take)
    return redirect(take)


@require_safe
def silence(request: PlayerRequest, take_id: UUID, number: int) -> HttpResponse:
    """Show one silence of a take by itself, at full height, note by note."""
    take = own(request, take_id)
    row = getattr(take, "reading", None)
    found = row.found if row else None
    if not take.ended_how or not row or not found or not 1 <= number <= len(found.silences):
        raise Http404
    plan = plan_of(take)
    span = plan.silences[number - 1]
    start_s, end_s = (float(plan.seconds(tick)) for tick in (span.start_tick - 1, span.end_tick + 1))
    context = {
        "take": take,
        "silence": silence_rows(plan, found)[number - 1],
        "last": len(plan.silences),
        "picture": draw_alone(plan, number, reading=found, thread=row.hanging) if row.hanging else None,
        "notes": [note for note in found.matches if start_s < note.expected_s < end_s],
        "missed": [note for note in found.missed if start_s < note.expected_s < end_s],
        "place_ms": found.heard.mean_error_ms or 0.0,
    }
    return render(request, "readings/silence.html", context)


@require_POST
def pin(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Pin a take, so that others are set beside it; a pinned one is taken down."""
    take = own(request, take_id)
    if request.session.get(PINNED) == str(take.pk):
        del request.session[PINNED]
        messages.success(request, "The pin is taken out.")
    else:
        request.session[PINNED] = str(take.pk)
        messages.success(request, "Pinned. Each reading that you open now is set beside this take.")
    return redirect(take)


@require_POST
def sections(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Mark the sections of a take that is mostly alone, and read it by them."""
    take = own(request, take_id)
    form = SectionsForm(request.POST)
    if form.is_valid():
        mark_sections(player=request.user, take=take, sections=form.cleaned_data["sections"])
        read_soon(take)
    else:
        messages.error(request, f"The sections were not marked: {form.errors['sections'][0]}")
    return redirect(take)


def own(request: PlayerRequest, take_id: UUID) -> Take:
    """Return a take that the player may see."""
    takes = Take.objects.visible_to(request.user).select_related("reading", "exercise", "player", "sound")
    return get_object_or_404(takes, pk=take_id)


@dataclass(frozen=True, slots=True)
class SilenceRow:
    """A silence with its number, what was asked, whether it was caught closely, and its beats without the click."""

    number: int
    asked: int
    is_close: bool
    alone: float
    found: SilenceReading


def silence_rows(plan: Schedule, found: CoreReading) -> list[SilenceRow]:
    """Return the silences of a reading as rows of its table."""
    return [
        SilenceRow(
            number,
            (asked := plan.asked_in(span)),
            silence.notes >= CLOSELY * asked,
            (span.end_tick - first_withheld(plan, span.start_tick, span.end_tick)) / plan.ticks_per_beat,
            silence,
        )
        for number, (span, silence) in enumerate(zip(plan.silences, found.silences, strict=True), start=1)
    ]


def _leading(context: dict[str, Any]) -> Drill | None:
    """Return what the plan's or the ladder's next step plays; None where neither leads."""
    flow, climb = context["flow"], context["climb"]
    if flow and flow.leads:
        drill: Drill | None = flow.drill
        return drill
    return climb.standing.step.drill if climb and climb.leads else None


def _in_full(
    take: Take, plan: Schedule, row: Reading, found: CoreReading, judgement: Judgement, past: History
) -> dict[str, Any]:
    """Return what the page shows beside verdict and advice."""
    columns = () if is_free(found) else (WIDE, TABLET, PHONE_LINE)
    rows = table(found, plan.drill, judgement.tempo, past, called=lambda source: pad_name(ear_of(take.player), source))
    first, others = in_two_steps(rows)
    return {
        "found": found,
        "since": since_first(take),
        "pictures": [draw_take(plan, one, reading=found, thread=row.hanging) for one in columns],
        "silences": silence_rows(plan, found),
        "unreturned": plan.unreturned,
        "first_rows": first,
        "other_rows": others,
    }


def _pinned(request: PlayerRequest, take: Take) -> Take | None:
    pinned = request.session.get(PINNED)
    if not pinned or pinned == str(take.pk):
        return None
    takes = Take.objects.visible_to(request.user).exclude(reading=None).select_related("reading")
    return takes.filter(pk=pinned).first()
