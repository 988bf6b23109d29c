"""Pages: progress, the month on one page, an empty sheet to fill in by hand."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_safe

from giusto.practice.over_takes.reaches import reaches
from studio.accounts.requests import PlayerRequest
from studio.ids import uuid_of
from studio.ladders.models import Ladder
from studio.ladders.standing import LadderStanding, standings
from studio.plans.entries import named_now
from studio.plans.models import Routine
from studio.plans.weeks import minutes_by_day
from studio.progress.month import month_of
from studio.progress.picture import draw_held, draw_leans, draw_small
from studio.progress.reaches import end_of, reaches_then
from studio.progress.rungs import rung_rows, secure_by, stalled
from studio.progress.weeks import changes, figures, mondays, rows_of, takes_between
from studio.progress.words import course_words, lean_heading
from studio.reach.tested import silences_until
from studio.reach.words import held_words
from studio.takes.models import Take

WEEKS = 10  # by the design


@require_safe
def page(request: PlayerRequest) -> HttpResponse:
    """Show ten weeks: what is held, the lean, a ladder; each figure with its range; minutes; what stalled."""
    player, today = request.user, timezone.localdate()
    until = min(_date(request.GET.get("until", "")) or today, today)
    start = until - timedelta(days=until.weekday()) - timedelta(weeks=WEEKS - 1)
    end = start + timedelta(weeks=WEEKS)
    in_seconds = request.GET.get("in") == "seconds"
    moment = min(end_of(end - timedelta(days=1)), timezone.now())
    silences = silences_until(player, moment)
    found = reaches(silences, moment)
    rows = rows_of(player, start, end)
    told = figures(rows, start, WEEKS)
    all_standings = _standings(request)
    chosen, other = _chosen(all_standings, request.GET.get("ladder", ""))
    played = minutes_by_day(player, start, end)
    weeks = list(mondays(start, WEEKS))
    context: dict[str, Any] = {
        "start": start,
        "until": min(end - timedelta(days=1), today),
        "earlier": start - timedelta(days=1),
        "later": end + timedelta(weeks=WEEKS) - timedelta(days=1) if end <= today else None,
        "in_seconds": in_seconds,
        "threads": draw_held(found, in_seconds=in_seconds),
        "held": found[0] if found else None,
        "held_words": held_words(found[0] if found else None),
        "lean": draw_leans(told[0], changes(rows)),
        "lean_heading": lean_heading(told[0]),
        "lean_words": course_words(told[0]),
        "figures": [(figure, draw_small(figure), course_words(figure)) for figure in told[1:]],
        "reaches": reaches_then(silences, start, timezone.localdate(moment), found[0]) if found else [],
        "chosen": chosen,
        "other": other,
        "rungs": rung_rows(chosen, today) if chosen else [],
        "secure": list(zip(weeks, _secure(chosen, weeks), strict=True)) if chosen else [],
        "minutes": [_week_minutes(monday, played) for monday in weeks],
        "stalled": stalled(all_standings, today),
        "takes": takes_between(player, start, end).count(),
        "has_ladders": Ladder.objects.visible_to(player).exists(),
        "all_takes": Take.objects.telling_of(player).count(),
        "more": f"in={'seconds' if in_seconds else 'beats'}{f'&ladder={chosen.ladder.pk}' if chosen else ''}",
    }
    return render(request, "progress/page.html", context)


@require_safe
def month(request: PlayerRequest, year: int, number: int) -> HttpResponse:
    """Show a month on one page, for paper."""
    if not 1 <= number <= 12 or not 2000 <= year <= 2200:
        raise Http404
    return render(request, "progress/month.html", {"month": month_of(request.user, date(year, number, 1))})


@require_safe
def this_month(request: PlayerRequest) -> HttpResponse:
    """Lead to the month of today."""
    today = timezone.localdate()
    return redirect("progress:month", today.year, today.month)


@require_safe
def sheet(request: PlayerRequest) -> HttpResponse:
    """Show an empty sheet to fill in by hand, with the routine's exercises where there is one."""
    routine = Routine.objects.filter(player=request.user).first()
    names = [one.name for one in named_now(routine).core.exercises] if routine else []
    rows = [*names[:16], *[""] * max(16 - len(names), 4)]
    return render(request, "progress/sheet.html", {"rows": rows, "days": range(1, 8)})


def _standings(request: PlayerRequest) -> list[LadderStanding]:
    ladders = Ladder.objects.visible_to(request.user).select_related("exercise", "player")
    return [one for one in standings(ladders, timezone.now()) if one.attempts]


def _chosen(some: list[LadderStanding], asked: str) -> tuple[LadderStanding | None, LadderStanding | None]:
    """Return the ladder that is shown, the one played last unless another is asked for, and the one after it."""
    ordered = sorted(some, key=lambda one: (one.step.secure > 0, one.attempts[-1].at), reverse=True)
    pk = uuid_of(asked)
    index = next((index for index, one in enumerate(ordered) if one.ladder.pk == pk), 0)
    if not ordered:
        return None, None
    return ordered[index], ordered[(index + 1) % len(ordered)] if len(ordered) > 1 else None


def _secure(chosen: LadderStanding, weeks: list[date]) -> list[str]:
    zone = timezone.get_current_timezone()
    ends = [datetime.combine(monday + timedelta(days=7), time(), tzinfo=zone) for monday in weeks]
    return secure_by(chosen, ends)


def _week_minutes(monday: date, played: dict[date, int]) -> tuple[date, int, int, float]:
    """Return a week's minutes, its days with any, and how long its bar is."""
    days = [played.get(monday + timedelta(days=n), 0) for n in range(7)]
    return monday, sum(days), sum(minutes > 0 for minutes in days), min(sum(days), 600) / 2


def _date(text: str) -> date | None:
    try:
        found = date.fromisoformat(text)
    except ValueError:
        return None
    return found if date(2000, 1, 1) <= found <= date(2200, 1, 1) else None
