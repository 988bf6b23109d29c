"""Pages: progress, the month on one page, an empty sheet to fill in by hand."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_safe

from giusto.practice.over_takes.figures import BY_WEEK, LEAN
from giusto.practice.over_takes.reaches import ReachAt, reaches
from studio.accounts.requests import PlayerRequest
from studio.drills.origin import REACH
from studio.drills.sentence.codec import query, words_of
from studio.ids import uuid_of
from studio.ladders.models import Ladder
from studio.ladders.standing import LadderStanding, standings
from studio.plans.entries import named_now
from studio.plans.models import Routine
from studio.plans.weeks import minutes_by_day
from studio.progress.month import month_of
from studio.progress.picture import PHONE, WIDE, draw_curve, draw_leans, draw_small
from studio.progress.reaches import end_of, reaches_then
from studio.progress.rungs import rung_rows, secure_by, stalled
from studio.progress.weeks import changes, figure_of, figures, mondays, rows_of, takes_between
from studio.progress.words import course_words, lean_heading
from studio.reach.tested import silences_until, to_try
from studio.reach.words import held_heading, seconds_of
from studio.takes.models import Take

WEEKS = 10  # by the design


@require_safe
def page(request: PlayerRequest) -> HttpResponse:
    """Show how long a silence is held, by tempo, and how the lean went over ten weeks."""
    player, now = request.user, timezone.now()
    silences = silences_until(player, now)
    found = reaches(silences, now)
    told = _told(found, request.GET.get("bpm", ""))
    span = Span.until(timezone.localdate())
    rows = rows_of(player, span.start, span.end, (LEAN,))
    lean = figure_of(LEAN, rows, span.start, WEEKS)
    context: dict[str, Any] = {
        "told": told,
        "heading": held_heading(told),
        "seconds": seconds_of(told),
        "pictures": [draw_curve(found, told, size) for size in (WIDE, PHONE)] if told else [],
        "trial": to_try(silences, told.bpm if told else None, now),
        "lean": lean if any(point.value is not None for point in lean.points) else None,
        "lean_weeks": draw_leans(lean, {}),
        "lean_heading": lean_heading(lean),
        "lean_words": course_words(lean),
    }
    context["play"] = f"{reverse('takes:play')}?{query({**words_of(context['trial'].drill), 'drill': REACH})}"
    return render(request, "progress/page.html", context)


@require_safe
def figures_page(request: PlayerRequest) -> HttpResponse:
    """Show every figure week by week with its range, minutes and days, and how reach came to what it is."""
    player, today = request.user, timezone.localdate()
    span = Span.until(min(_date(request.GET.get("until", "")) or today, today))
    moment = min(end_of(span.end - timedelta(days=1)), timezone.now())
    silences = silences_until(player, moment)
    found = reaches(silences, moment)
    rows = rows_of(player, span.start, span.end, BY_WEEK)
    played = minutes_by_day(player, span.start, span.end)
    told = figures(rows, span.start, WEEKS)
    context = {
        "span": span,
        "until": min(span.end - timedelta(days=1), today),
        "earlier": span.start - timedelta(days=1),
        "later": span.end + timedelta(weeks=WEEKS) - timedelta(days=1) if span.end <= today else None,
        "lean": draw_leans(told[0], changes(rows)),
        "lean_words": course_words(told[0]),
        "figures": [(figure, draw_small(figure), course_words(figure)) for figure in told[1:]],
        "held": found[0] if found else None,
        "reaches": reaches_then(silences, span.start, timezone.localdate(moment), found[0]) if found else [],
        "minutes": [_week_minutes(monday, played) for monday in mondays(span.start, WEEKS)],
        "takes": takes_between(player, span.start, span.end).count(),
        "all_takes": Take.objects.telling_of(player).count(),
    }
    return render(request, "progress/figures.html", context)


@require_safe
def exercises(request: PlayerRequest) -> HttpResponse:
    """Show each ladder's course: one of them whole, what stalled."""
    today = timezone.localdate()
    all_standings = _standings(request)
    chosen, other = _chosen(all_standings, request.GET.get("ladder", ""))
    weeks = list(mondays(Span.until(today).start, WEEKS))
    context = {
        "chosen": chosen,
        "other": other,
        "standings": all_standings,
        "rungs": rung_rows(chosen, today) if chosen else [],
        "secure": list(zip(weeks, _secure(chosen, weeks), strict=True)) if chosen else [],
        "stalled": stalled(all_standings, today),
    }
    return render(request, "progress/exercises.html", context)


@dataclass(frozen=True, slots=True)
class Span:
    """The weeks that are shown: from a Monday up to another, that one not included."""

    start: date
    end: date

    @classmethod
    def until(cls, day: date) -> Span:
        """Return the weeks of which a day is in the last."""
        start = day - timedelta(days=day.weekday()) - timedelta(weeks=WEEKS - 1)
        return cls(start, start + timedelta(weeks=WEEKS))


def _told(found: list[ReachAt], asked: str) -> ReachAt | None:
    """Return the reach that is told of: near the tempo that is asked for, else near the latest."""
    return next((at for at in found if f"{at.bpm:g}" == asked), found[0] if found else None)


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
