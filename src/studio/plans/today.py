"""What a day holds: its blocks as items, which is next, what was done, when a pause is due."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.db.models import Max
from django.utils import timezone

from giusto.plan.day import Spent, is_over, session_minutes, spent
from giusto.plan.days import Slot, plan, shortened
from giusto.plan.parts import spelled
from giusto.plan.rest import Pause, TakeLoad, pause_due
from giusto.plan.routine import Routine as CoreRoutine
from giusto.practice.over_takes.facts import TakeFacts
from studio.accounts.models import Player
from studio.drills.models import Delivery, delivery_of
from studio.ladders.parts import Climbs, climbs_of
from studio.plans.actions import day_of
from studio.plans.entries import Named, named_now
from studio.plans.items import Item, SlotEntry, item_of
from studio.plans.known import known_of
from studio.plans.models import Day, Routine, Week
from studio.takes.facts import facts_of
from studio.takes.models import Take

AHEAD_DAYS = 60
LOUD = (Delivery.Level.LOUD, Delivery.Level.FULL)


@dataclass(frozen=True, slots=True)
class ItemLine:
    """An item with what was played of it, and whether it is over."""

    item: Item
    spent: Spent
    is_over: bool
    is_skipped: bool


@dataclass(frozen=True, slots=True)
class Today:
    """A day as its player goes through it.

    Attributes
    ----------
    date : date
    row : Day
    routine : Routine
    lines : list of ItemLine
    minutes : int
        Of the session.
    away : int
        Full days without a take before today.
    left_out : tuple of str
        Blocks that a short session has no room for.
    pause : Pause or None
    is_off : bool
        Whether it is an off day, by the player's word.
    climbs : Climbs
        Where all ladders stand.
    """

    date: date
    row: Day
    routine: Routine
    lines: list[ItemLine]
    minutes: int
    away: int
    left_out: tuple[str, ...]
    pause: Pause | None
    is_off: bool
    climbs: Climbs

    @property
    def next(self) -> ItemLine | None:
        """The first line that is not over."""
        return next((line for line in self.lines if not line.is_over), None)

    @property
    def following(self) -> ItemLine | None:
        """The line after that."""
        return next((line for line in self.lines if not line.is_over and line is not self.next), None)

    @property
    def is_running(self) -> bool:
        """Whether each take leads to the next."""
        return self.row.began_at is not None and self.row.closed_at is None

    @property
    def is_closed(self) -> bool:
        """Whether the day was closed, or nothing is left of it."""
        return self.row.closed_at is not None or self.next is None


def today_of(player: Player, now: datetime) -> Today | None:
    """Return what today holds; None where there is no routine, or today is none of its days and was not begun."""
    routine = Routine.objects.filter(player=player).first()
    if routine is None:
        return None
    today = timezone.localtime(now).date()
    row = day_of(player, today)
    named = named_now(routine)
    chosen = chosen_days(player, named.core, today, 1)
    if today not in chosen and row.began_at is None and row.minutes is None:
        return None
    takes, away = takes_today(player, today), days_away(player, today)
    minutes = session_minutes(named.core.minutes, away=away, chosen=row.minutes)
    core = shortened(named.core, minutes)
    slots = plan(core, start=today, days=1, chosen=[today], practised=practised(player, named, today))
    asked = _asked(named, slots, row)
    climbs = climbs_of(player, now)
    known = known_of(player, (one.entry for one in asked if one.entry), climbs, now)
    items = [item_of(player, one, known, now, (routine.low, routine.high)) for one in asked]
    is_off = _is_off(player, today)
    repeats = routine.repeats + is_off
    lines = [_line(item, takes, row, repeats) for item in items]
    kept = {block.name for block in core.blocks}
    left_out = tuple(block.name for block in named.core.blocks if block.name not in kept)
    return Today(today, row, routine, lines, minutes, away, left_out, _pause(player, takes, row, now), is_off, climbs)


@dataclass(frozen=True, slots=True)
class NextLine:
    """Where a day goes on: the line that comes next, None where nothing is left."""

    line: ItemLine | None


def following_address(player: Player, now: datetime) -> NextLine | None:
    """Return what comes next while a day is gone through; None outside of one."""
    running = Day.objects.filter(player=player, day=timezone.localtime(now).date(), closed_at=None)
    if not running.exclude(began_at=None).exists():
        return None
    found = today_of(player, now)
    return NextLine(found.next) if found else None


def chosen_days(player: Player, routine: CoreRoutine, start: date, days: int) -> list[date]:
    """Return the days of practice in a stretch: as they were chosen for their week, else those of the routine."""
    span = [start + timedelta(days=n) for n in range(days)]
    first = start - timedelta(days=start.weekday())
    weeks = {week.monday: week for week in Week.objects.filter(player=player, monday__range=(first, span[-1]))}
    return [day for day in span if _is_on(routine, weeks.get(day - timedelta(days=day.weekday())), day)]


def next_day(player: Player, routine: CoreRoutine, today: date) -> date | None:
    """Return the next day of practice after today."""
    return next(iter(chosen_days(player, routine, today + timedelta(days=1), AHEAD_DAYS)), None)


def practised(player: Player, named: Named, before: date) -> dict[str, list[str]]:
    """Return the keys of each exercise of a routine that has keys, the one played last at the end; one query."""
    entries = ((one, named.entry(one.block, one.name)) for one in named.core.exercises if one.keys)
    turns = [(one, entry.exercise_id) for one, entry in entries if entry and entry.exercise_id]
    if not turns:
        return {}
    rows = (
        Take.objects.visible_to(player)
        .filter(exercise__whole__in={whole for _, whole in turns}, session__day__lt=before)
        .exclude(exercise__music_key="")
        .values_list("exercise__whole", "exercise__music_key")
        .annotate(last=Max("started_at"))
        .order_by("last")
    )
    found: defaultdict[int, list[str]] = defaultdict(list)
    for whole, key, _ in rows:
        found[whole].append(key)
    return {one.name: [spelled(key, one.keys.all) for key in found[whole]] for one, whole in turns if one.keys}


def takes_today(player: Player, today: date) -> list[TakeFacts]:
    """Return the takes of a day, ascending; one query."""
    return facts_of(Take.objects.visible_to(player).ended().filter(session__day=today).order_by("started_at"))


def days_away(player: Player, today: date) -> int:
    """Return how many full days there was no take before today; 0 where there never was one."""
    last = Take.objects.visible_to(player).filter(session__day__lt=today).aggregate(last=Max("session__day"))["last"]
    return (today - last).days - 1 if last else 0


def _line(item: Item, takes: Sequence[TakeFacts], row: Day, repeats: int) -> ItemLine:
    found = spent([take for take in takes if take.exercise in item.exercises])
    is_skipped = item.word in row.over
    over = is_over(found, minutes=item.slot.minutes, repeats=repeats if item.is_repeated else None)
    return ItemLine(item, found, is_skipped or over, is_skipped and not found.takes)


def _pause(player: Player, takes: Iterable[TakeFacts], row: Day, now: datetime) -> Pause | None:
    delivery = delivery_of(player)
    is_loud = delivery.heard and delivery.level in LOUD
    since = row.rested_at
    some = [TakeLoad(take.at, take.end, is_loud) for take in takes if since is None or take.at > since]
    return pause_due(some, now)


def _is_on(routine: CoreRoutine, week: Week | None, day: date) -> bool:
    if week is None or week.days is None:
        return routine.is_on(day)
    return day.isoformat() in week.days


def _is_off(player: Player, today: date) -> bool:
    return player.sessions.filter(day=today, is_off=True).exists()


def _asked(named: Named, slots: Sequence[Slot], row: Day) -> list[SlotEntry]:
    """Return each slot with its word and with what is played in it."""
    by_id = {str(one.pk): one for one in named.all}
    found = []
    for slot in slots:
        entry = named.entry(slot.block, slot.exercise)
        word = "/".join((slot.block, str(entry.pk) if entry else slot.exercise, slot.key))
        found.append(SlotEntry(slot, word, by_id.get(row.swapped.get(word, "")) or entry))
    return found
