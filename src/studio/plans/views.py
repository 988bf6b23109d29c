"""Pages: today, gone through block by block; what can be done with it; and its close."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from studio.accounts.requests import PlayerRequest
from studio.exercises.actions import mean_next_time
from studio.ladders.words import day_word
from studio.plans import actions
from studio.plans.entries import names_offered, targets
from studio.plans.models import Routine
from studio.plans.presets import PRESETS
from studio.plans.today import ItemLine, Today, days_away, next_day, today_of
from studio.plans.weeks import due_today
from studio.plans.words import closing, lead
from studio.reach.measured import last_held
from studio.sheet.picture import Picture, thumbnail

MINUTE_H, LEAST_H = 11.6, 76.0  # by the design: px a minute, and never less for a block
SHORT = (5, 10, 20, 40)
NEXT_TIME = re.compile(r"next-[0-9]{1,18}")  # a line for the next time, by its exercise


@dataclass(frozen=True, slots=True)
class HungLine:
    """A line as it hangs down the minute rule."""

    line: ItemLine
    number: int
    from_minute: int
    height: float
    ticks: list[float]
    small: Picture | None
    is_next: bool


@require_safe
def today(request: PlayerRequest) -> HttpResponse:
    """Show what today holds; for a player without a routine, how to begin one."""
    player, now = request.user, timezone.now()
    found = today_of(player, now)
    routine = found.routine if found else Routine.objects.filter(player=player).first()
    context: dict[str, Any] = {"date": timezone.localdate(), "presets": PRESETS.items(), "routine": routine}
    context["held"] = last_held(player, now)
    if routine is None:
        return render(request, "plans/first.html", context)
    local = timezone.localdate()
    context["following_day"] = _day(next_day(player, routine.core, local), local)
    if found is None:
        context["away"] = days_away(player, local)
        return render(request, "plans/free.html", context)
    if found.is_closed:
        return render(request, "plans/closing.html", context | {"today": found, "closing": closing(found)})
    asked = {exercise for line in found.lines for exercise in line.item.exercises}
    context |= {
        "due": [one for one in due_today(found.climbs) if one.ladder.exercise_id not in asked],
        "today": found,
        "lines": _shown(found),
        "lead": lead(found),
        "shorter": (shorter := [minutes for minutes in SHORT if minutes < found.minutes]),
        "others": ", ".join(str(minutes) for minutes in shorter[-2::-1]),
        "names": names_offered(player),
        "is_off": found.is_off,
    }
    return render(request, "plans/today.html", context)


@require_POST
def begin(request: PlayerRequest) -> HttpResponse:
    """Begin the day, or go on with it: from now on each take leads to the next."""
    player, now = request.user, timezone.now()
    actions.begin_day(player=player, at=now)
    found = today_of(player, now)
    following = found.next if found else None
    return redirect(following.item.url if following and following.item.url else "plan:today")


@require_POST
def over(request: PlayerRequest) -> HttpResponse:
    """Call a block's exercise done or skipped, or take that back; then what is next."""
    is_over = request.POST.get("over", "1") == "1"
    actions.put_over(
        player=request.user, day=timezone.localdate(), word=request.POST.get("word", "")[:400], is_over=is_over
    )
    found = today_of(request.user, timezone.now())
    following = found.next if found and found.is_running and is_over else None
    if following and following.item.url and "play" in request.POST:
        return redirect(following.item.url)
    return redirect("plan:today")


@require_POST
def swap(request: PlayerRequest) -> HttpResponse:
    """Play something else in an exercise's place today."""
    name = request.POST.get("name", "").strip()[:120]
    known = targets(request.user)
    if name and name.casefold() not in known:
        messages.error(request, f"Nothing here is called “{name}”: choose a ladder, a piece, a drill, or Reach.")
    else:
        word = request.POST.get("word", "")[:400]
        actions.swap(
            player=request.user, day=timezone.localdate(), word=word, name=known[name.casefold()].name if name else ""
        )
    return redirect("plan:today")


@require_POST
def shorten(request: PlayerRequest) -> HttpResponse:
    """Say how many minutes there are today; nothing for the routine's own."""
    text = request.POST.get("minutes", "")
    if text and not (text.isascii() and text.isdecimal() and 1 <= int(text[:6]) <= actions.MOST_MINUTES):
        messages.error(request, f"Minutes from 1 to {actions.MOST_MINUTES}, please.")
    else:
        actions.change_day(player=request.user, day=timezone.localdate(), minutes=int(text) if text else None)
    return redirect("plan:today")


@require_POST
def rest(request: PlayerRequest) -> HttpResponse:
    """Wave a pause away, or say that it was made."""
    actions.change_day(player=request.user, day=timezone.localdate(), rested_at=timezone.now())
    return redirect("plan:today")


@require_http_methods(["GET", "HEAD", "POST"])
def close(request: PlayerRequest) -> HttpResponse:
    """Ask what the next time should begin with; close the day with what was done, or open it again."""
    player, now = request.user, timezone.now()
    if request.method != "POST":
        found = today_of(player, now)
        if found is None:
            return redirect("plan:today")
        context = {"date": timezone.localdate(), "today": found, "closing": closing(found)}
        return render(request, "plans/closing.html", context)
    if "keep" in request.POST:
        lines = {int(name[5:]): str(value) for name, value in request.POST.items() if NEXT_TIME.fullmatch(name)}
        mean_next_time(player=player, lines=lines)
    is_open = request.POST.get("open") == "1"
    began = {} if is_open else {"began_at": _begun(request) or now}
    actions.change_day(player=player, day=timezone.localdate(), closed_at=None if is_open else now, **began)
    return redirect("plan:today")


@require_POST
def preset(request: PlayerRequest) -> HttpResponse:
    """Begin with a ready routine."""
    key = request.POST.get("preset", "")
    if key in PRESETS:
        actions.begin_preset(player=request.user, key=key)
    return redirect("plan:today")


def _begun(request: PlayerRequest) -> datetime | None:
    return actions.day_of(request.user, timezone.localdate()).began_at


def _shown(found: Today) -> list[HungLine]:
    shown, minute = [], 0
    for number, line in enumerate(found.lines, start=1):
        item = line.item
        height = max(MINUTE_H * item.slot.minutes, LEAST_H)
        minutes = item.slot.minutes
        shown.append(
            HungLine(
                line=line,
                number=number,
                from_minute=minute,
                height=height,
                ticks=[round(height * part / minutes, 1) for part in range(1, minutes)],
                small=thumbnail(item.drill) if item.drill else None,
                is_next=line is found.next and not found.is_closed,
            )
        )
        minute += minutes
    return shown


def _day(day: date | None, today: date) -> str:
    return day_word(day, today) if day and (day - today).days < 2 else f"{day:%A %-d %B}" if day else ""
