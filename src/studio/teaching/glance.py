"""A pupil at a glance: what was played, what stands where, what changed, what sticks, what hurts the plan."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.utils import timezone

from giusto.practice.over_takes.figures import BY_WEEK
from giusto.practice.over_takes.reaches import reaches
from studio.accounts.looking import looked_at
from studio.accounts.models import Player
from studio.joining.models import note
from studio.ladders.models import Ladder
from studio.ladders.standing import LadderStanding, standings
from studio.ladders.words import value_word
from studio.plans.models import Routine
from studio.plans.today import chosen_days
from studio.plans.weeks import minutes_by_day
from studio.progress.weeks import figures, rows_of
from studio.progress.words import course_words
from studio.reach.tested import silences_until
from studio.reach.words import held_figure
from studio.teaching.models import Assignment, Consent

DAYS, WEEKS = 7, 10  # the weeks as on Progress
STUCK_DAYS = 14  # ours: a rung tried for so long, and still asked for


@dataclass(frozen=True, slots=True)
class Stuck:
    """A ladder on which the same rung has been tried for a while, and is still asked for."""

    name: str
    rung: str
    days: int
    takes: int


@dataclass(frozen=True, slots=True)
class Glance:
    """What a teacher sees of a pupil in one line.

    Attributes
    ----------
    pupil : Player
    consent : Consent
    days : list of (date, int)
        The last seven days up to today, each with its minutes.
    planned, kept : int
        Days among them that the pupil chose, and those of these with anything played; none without a plan.
    held : str
        How long a silence is held, as Progress has it.
    stands : list of (str, str)
        The ladders played last, and up to where each is secure.
    changed : list of str
        What changed by more than chance over the ten weeks that Progress shows.
    stuck : list of Stuck
    asked : int
        Assignments that the pupil has taken on, or has still to answer.
    """

    pupil: Player
    consent: Consent
    days: list[tuple[date, int]]
    planned: int
    kept: int
    held: str
    stands: list[tuple[str, str]]
    changed: list[str]
    stuck: list[Stuck]
    asked: int

    @property
    def total(self) -> int:
        """Minutes of these days."""
        return sum(minutes for _, minutes in self.days)

    @property
    def hurts_plan(self) -> bool:
        """Whether less than half of the chosen days were kept."""
        return 2 * self.kept < self.planned


def glances(teacher: Player, now: datetime) -> list[Glance]:
    """Return a line for each pupil of a teacher, by name; each pupil is told of it."""
    consents = Consent.objects.now().to(teacher).select_related("player", "teacher")
    found = []
    for consent in consents.order_by("player__display_name", "player_id"):
        note(consent.player, teacher, "looked at your week")
        with looked_at(consent.look):
            found.append(glance_of(consent, now))
    return found


def glance_of(consent: Consent, now: datetime) -> Glance:
    """Return what a teacher sees of one pupil."""
    pupil = consent.player
    with timezone.override(pupil.time_zone or None):
        today = timezone.localtime(now).date()
        first = today - timedelta(days=DAYS - 1)
        played = minutes_by_day(pupil, first, today + timedelta(days=1))
        found = _standings(pupil, now)
        chosen = _chosen(pupil, first)
        asked = Assignment.objects.filter(player=pupil, by=consent.teacher, put_away_at=None, taken_back_at=None)
        return Glance(
            pupil=pupil,
            consent=consent,
            days=[(day, played.get(day, 0)) for day in (first + timedelta(days=n) for n in range(DAYS))],
            planned=sum(day < today or played.get(day, 0) > 0 for day in chosen),
            kept=sum(played.get(day, 0) > 0 for day in chosen),
            held=_held(pupil, now),
            stands=[(one.ladder.name, _secure(one)) for one in found[:3]],
            changed=_changed(pupil, today),
            stuck=[stuck for one in found if (stuck := _stuck(one, today))],
            asked=asked.count(),
        )


def _standings(pupil: Player, now: datetime) -> list[LadderStanding]:
    ladders = Ladder.objects.visible_to(pupil).select_related("exercise", "player")
    found = [one for one in standings(ladders, now) if one.attempts]
    return sorted(found, key=lambda one: one.attempts[-1].at, reverse=True)


def _secure(one: LadderStanding) -> str:
    return value_word(one.ladder.core, one.step.secure) if one.step.secure else ""


def _chosen(pupil: Player, first: date) -> list[date]:
    routine = Routine.objects.filter(player=pupil).first()
    return chosen_days(pupil, routine.core, first, DAYS) if routine else []


def _held(pupil: Player, now: datetime) -> str:
    found = reaches(silences_until(pupil, now), now)
    return held_figure(found[0]) if found else ""


def _changed(pupil: Player, today: date) -> list[str]:
    start = today - timedelta(days=today.weekday()) - timedelta(weeks=WEEKS - 1)
    told = figures(rows_of(pupil, start, start + timedelta(weeks=WEEKS), BY_WEEK), start, WEEKS)
    return [f"{one.name}: {course_words(one)}" for one in told if one.course and one.course.more_than_chance]


def _stuck(one: LadderStanding, today: date) -> Stuck | None:
    """Return how long the rung that is asked for now has been tried, where that is long."""
    if one.step.done:
        return None
    tried = [attempt for attempt in one.attempts if attempt.rung == one.step.rung]
    days = (today - tried[0].day).days if tried else 0
    if days < STUCK_DAYS:
        return None
    return Stuck(one.ladder.name, value_word(one.ladder.core, one.step.rung), days, len(tried))
