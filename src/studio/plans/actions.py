"""All that changes a player's plan: each an action, whole or not at all."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime, timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from giusto.plan.routine import Routine as CoreRoutine
from giusto.plan.routine import routine_of
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.ladders.actions import start_ladder
from studio.ladders.shelf import ready_by_name
from studio.plans.entries import bind, names_of, targets
from studio.plans.keys import make_keys
from studio.plans.models import Day, Routine, Week, new_token
from studio.plans.policies import may_plan
from studio.plans.presets import PRESETS, preset

MOST_MINUTES = 600  # ours: of one day


@transaction.atomic
def keep_routine(*, player: Player, routine: CoreRoutine, **fields: Any) -> Routine:
    """Keep a routine in place of the one before.

    Ready ladders that it names, and that the player has nothing else for, are started; so is each of its keys.

    Raises
    ------
    ClimbError
        Where the player would have too many ladders.
    """
    require(may_plan(player))
    names = names_of(routine)
    there = targets(player)
    for name in dict.fromkeys(names):
        one = ready_by_name().get(name.casefold())
        if one and name.casefold() not in there:
            start_ladder(player=player, ladder=one.ladder, slug=one.slug)
    bind(player, names, renames=True)
    made = Routine.objects.update_or_create(player=player, defaults={"spec": routine.plain(), **fields})[0]
    make_keys(player=player, routine=made)
    return made


@transaction.atomic
def begin_preset(*, player: Player, key: str) -> Routine:
    """Begin with a ready routine."""
    require(may_plan(player) and key in PRESETS)
    today = timezone.localdate()
    monday = today - timedelta(days=today.weekday())
    zone = timezone.get_current_timezone_name()
    routine = routine_of(preset(key, zone=zone, monday=monday.isoformat()))
    return keep_routine(player=player, routine=routine)


@transaction.atomic
def choose_week(*, player: Player, monday: date, days: Iterable[date] | None, goal: str) -> Week:
    """Choose the days of a week and its goal; None for the days of the routine."""
    require(may_plan(player))
    chosen = None if days is None else sorted(day.isoformat() for day in days)
    return Week.objects.update_or_create(player=player, monday=monday, defaults={"days": chosen, "goal": goal})[0]


@transaction.atomic
def set_feed(*, player: Player, is_open: bool) -> Routine:
    """Give the calendar a new private address, or none; an earlier one answers no more."""
    require(may_plan(player))
    routine = Routine.objects.select_for_update().get(player=player)
    routine.token = new_token() if is_open else None
    routine.save(update_fields=["token"])
    return routine


def day_of(player: Player, day: date) -> Day:
    """Return how a day is gone through; as it comes until something was said of it."""
    return Day.objects.filter(player=player, day=day).first() or Day(player=player, day=day)


@transaction.atomic
def change_day(*, player: Player, day: date, **fields: Any) -> Day:
    """Change how a day is gone through."""
    require(may_plan(player))
    return Day.objects.update_or_create(player=player, day=day, defaults=fields)[0]


@transaction.atomic
def begin_day(*, player: Player, at: datetime) -> Day:
    """Begin a day, or go on with it: from then on each take leads to the next. Keys without a part get theirs."""
    if routine := Routine.objects.filter(player=player).first():
        make_keys(player=player, routine=routine)
    return change_day(player=player, day=timezone.localtime(at).date(), began_at=at, closed_at=None)


@transaction.atomic
def put_over(*, player: Player, day: date, word: str, is_over: bool = True) -> Day:
    """Call a slot of a day done or skipped, or take that back."""
    require(may_plan(player))
    found = Day.objects.select_for_update().get_or_create(player=player, day=day)[0]
    over = [one for one in found.over if one != word]
    found.over = [*over, word] if is_over else over
    found.save(update_fields=["over"])
    return found


@transaction.atomic
def swap(*, player: Player, day: date, word: str, name: str) -> Day:
    """Play something else in a slot of a day, by its name; ``""`` takes that back."""
    require(may_plan(player))
    other = {word: str(bind(player, [name])[name.casefold()].pk)} if name else {}
    found = Day.objects.select_for_update().get_or_create(player=player, day=day)[0]
    found.swapped = {slot: one for slot, one in found.swapped.items() if slot != word} | other
    found.save(update_fields=["swapped"])
    return found
