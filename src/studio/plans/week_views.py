"""Pages: the weeks ahead, whose days are chosen before they begin, and the routine as a sentence."""

from __future__ import annotations

import json
from collections import defaultdict
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from giusto.drill.json_file import MAX_BYTES
from giusto.errors import DrillError
from giusto.plan.days import Slot
from giusto.plan.routine import parse_routine
from studio.accounts.requests import PlayerRequest
from studio.ladders.actions import ClimbError
from studio.ladders.shelf import ready
from studio.plans import actions
from studio.plans.ahead import slots_ahead
from studio.plans.entries import named_now, names_offered
from studio.plans.forms import MOST_TOLD, RoutineFileForm, WholeRoutine
from studio.plans.models import Routine, Week
from studio.plans.presets import PRESETS
from studio.plans.routine_page import changed, hidden, lines, when_words
from studio.plans.today import chosen_days
from studio.plans.weeks import due_checks, minutes_by_day
from studio.words import joined

WEEKS, SHOWN_WEEKS, MOST_GOAL = 4, 2, 200


@dataclass(frozen=True, slots=True)
class DayLine:
    """A day of a week: whether it is one of practice, what it holds, what was played, which checks are due."""

    date: date
    is_on: bool
    is_past: bool
    is_today: bool
    slots: list[Slot]
    played: int
    due: list[str]

    @property
    def minutes(self) -> int:
        """How long its session is."""
        return sum(slot.minutes for slot in self.slots)


@dataclass(frozen=True, slots=True)
class WeekLine:
    """A week with its days, its goal, and how much was played of it."""

    monday: date
    goal: str
    days: list[DayLine]
    played: int
    is_chosen: bool


@require_safe
def weeks(request: PlayerRequest) -> HttpResponse:
    """Show this week and the three after it, the one before with ``?from``."""
    routine = Routine.objects.filter(player=request.user).first()
    if routine is None:
        return redirect("plan:today")
    today = timezone.localdate()
    monday = _monday(request.GET.get("from", ""), today)
    found = _weeks(request, routine, monday, today)
    days = [day for week in found[:SHOWN_WEEKS] for day in week.days]
    same = _same(days)
    context = {
        "routine": routine,
        "weeks": found,
        "fortnight": [(day, _changes(day, same)) for day in days],
        "same": joined(same),
        "heading": _goal_of(found, today) or "The weeks",
        "before": monday - timedelta(weeks=WEEKS),
        "after": monday + timedelta(weeks=WEEKS),
        "feed": request.build_absolute_uri(reverse("plan:feed", args=[routine.token])) if routine.token else "",
    }
    return render(request, "plans/weeks.html", context)


@require_POST
def choose(request: PlayerRequest) -> HttpResponse:
    """Choose the days of a week and what is to come of it."""
    monday = _date(request.POST.get("monday", ""))
    if monday is None or monday.weekday():
        raise Http404
    week = {monday + timedelta(days=n) for n in range(7)}
    days = {day for day in map(_date, request.POST.getlist("day")) if day in week}
    is_routine = "routine" in request.POST
    goal = request.POST.get("goal", "").strip()[:MOST_GOAL]
    actions.choose_week(
        player=request.user, monday=monday, days=None if is_routine else [day for day in days if day], goal=goal
    )
    return redirect(f"{reverse('plan:weeks')}?from={monday.isoformat()}")


@require_http_methods(["GET", "HEAD", "POST"])
def routine(request: PlayerRequest) -> HttpResponse:
    """Show the routine as sentences; a word that is touched opens, and nothing is kept until it is said."""
    row = Routine.objects.filter(player=request.user).first()
    is_said = "open" not in request.POST and "move" not in request.POST and "add" not in request.POST
    data, opened = changed(request.POST)
    whole = WholeRoutine(data if request.method == "POST" else None, row=row)
    is_wrong = False
    if request.method == "POST" and is_said:
        made = whole.make()
        is_wrong = made is None
        if made:
            try:
                actions.keep_routine(player=request.user, routine=made, **whole.columns)
            except ClimbError as error:
                messages.error(request, str(error))
            else:
                messages.success(request, "Kept.")
                return redirect("plan:routine")
    context = {
        "row": row,
        "whole": whole,
        "opened": opened,
        "blocks": lines(whole, opened),
        "hidden": list(hidden(whole, opened)),
        "when": when_words(whole),
        "start": whole.form["start"].value() or "18:00",
        "minutes": whole.form["minutes"].value(),
        "new_block": len(whole.blocks.forms) - 1,
        "names": [*dict.fromkeys([*names_offered(request.user), *(one.name for one in ready().values())])],
        "presets": PRESETS.items(),
        "file": RoutineFileForm(),
    }
    return render(request, "plans/routine.html", context, status=422 if is_wrong else 200)


@require_safe
def routine_out(request: PlayerRequest) -> HttpResponse:
    """Send the routine as its file."""
    row = Routine.objects.filter(player=request.user).first()
    if row is None:
        raise Http404
    headers = {"Content-Disposition": 'attachment; filename="routine.json"'}
    text = json.dumps(named_now(row).core.plain(), indent=2, ensure_ascii=False)
    return HttpResponse(f"{text}\n", content_type="application/json", headers=headers)


@require_POST
def routine_in(request: PlayerRequest) -> HttpResponse:
    """Bring in a routine's file in place of the routine; what is wrong in it is told, each with its place."""
    form = RoutineFileForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            made = parse_routine(form.cleaned_data["file"].read(MAX_BYTES + 1))
            actions.keep_routine(player=request.user, routine=made)
        except DrillError as error:
            messages.error(request, " ".join(f"{fault}." for fault in error.faults[:MOST_TOLD]))
        except ClimbError as error:
            messages.error(request, str(error))
        else:
            messages.success(request, "The routine is in its place.")
    else:
        messages.error(request, "Choose a file first.")
    return redirect("plan:routine")


@require_POST
def feed(request: PlayerRequest) -> HttpResponse:
    """Open the calendar's private address, give it a new one, or close it."""
    if Routine.objects.filter(player=request.user).exists():
        actions.set_feed(player=request.user, is_open=request.POST.get("open") == "1")
    return redirect(f"{reverse('plan:weeks')}#calendar")


def _same(days: list[DayLine]) -> list[str]:
    """Return what every day to come holds, whatever else it holds: it is said once."""
    ahead = [[slot.exercise or slot.block for slot in day.slots if not slot.key] for day in days if day.slots]
    return [name for name in dict.fromkeys(ahead[0] if ahead else ()) if all(name in names for names in ahead)]


def _changes(day: DayLine, same: list[str]) -> list[str]:
    """Return what a day holds that not every day does: its keys by exercise, and what comes now and then."""
    keys: dict[str, list[str]] = {}
    for slot in day.slots:
        if slot.key:
            keys.setdefault(slot.exercise, []).append(slot.key)
    told = [f"{name}: {', '.join(some)}" for name, some in keys.items()]
    others = (slot.exercise or slot.block for slot in day.slots if not slot.key)
    return [*told, *dict.fromkeys(name for name in others if name not in same)]


def _goal_of(weeks: list[WeekLine], today: date) -> str:
    """Return the goal of the week that is now."""
    return next((week.goal for week in weeks if week.monday <= today < week.monday + timedelta(weeks=1)), "")


def _weeks(request: PlayerRequest, routine: Routine, monday: date, today: date) -> list[WeekLine]:
    player, named = request.user, named_now(routine)
    core = named.core
    chosen = chosen_days(player, core, monday, 7 * WEEKS)
    slots: defaultdict[date, list[Slot]] = defaultdict(list)  # what is past is what was played
    for slot in slots_ahead(player, named, today, monday + timedelta(weeks=WEEKS)):
        slots[slot.date].append(slot)
    rows = {week.monday: week for week in Week.objects.filter(player=player, monday__gte=monday)}
    played = minutes_by_day(player, monday, monday + timedelta(weeks=WEEKS))
    due = due_checks(player, timezone.now())
    found = []
    for first in (monday + timedelta(weeks=n) for n in range(WEEKS)):
        span = [first + timedelta(days=n) for n in range(7)]
        days = [
            DayLine(day, day in chosen, day < today, day == today, slots[day], played.get(day, 0), due.get(day, []))
            for day in span
        ]
        row = rows.get(first)
        goal, total = row.goal if row else "", sum(day.played for day in days)
        found.append(WeekLine(first, goal, days, total, row is not None and row.days is not None))
    return found


def _monday(text: str, today: date) -> date:
    day = _date(text) or today
    return day - timedelta(days=day.weekday())


def _date(text: Any) -> date | None:
    try:
        found = date.fromisoformat(text)
    except (ValueError, TypeError):
        return None
    return found if date(2000, 1, 1) <= found <= date(2200, 1, 1) else None
