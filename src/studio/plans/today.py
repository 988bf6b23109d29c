"""What a day holds: its blocks as items, which is next, what was done, when a pause is due."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from uuid import UUID

from django.db.models import Max, Q
from django.utils import timezone

from giusto.plan.day import Spent, is_over, session_minutes, spent
from giusto.plan.days import Slot, plan, shortened
from giusto.plan.parts import spelled
from giusto.plan.rest import Pause, TakeLoad, pause_due
from giusto.plan.routine import Routine as CoreRoutine
from giusto.practice.over_takes.facts import TakeFacts
from studio.accounts.models import Player
from studio.drills.models import Delivery, delivery_of
from studio.exercises.models import Exercise
from studio.ladders.parts import Climbs, climbs_of
from studio.plans.actions import day_of
from studio.plans.entries import Named, named_now
from studio.plans.items import Item, SlotEntry, item_of
from studio.plans.known import known_of
from studio.plans.models import Day, Entry, Routine, Week
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
    takes : list of TakeFacts
        All that were played on it, the plan's and others, ascending.
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
    repeats : int
        How often what is repeated is played.
    """

    date: date
    row: Day
    routine: Routine
    lines: list[ItemLine]
    takes: list[TakeFacts]
    minutes: int
    away: int
    left_out: tuple[str, ...]
    pause: Pause | None
    is_off: bool
    climbs: Climbs
    repeats: int

    def ended_by(self, take: UUID) -> bool:
        """Return whether nothing is left of the plan, and something was without a take."""
        others = [one for one in self.takes if one.take != take]
        return self.next is None and any(
            not _line(each.item, others, self.row, self.repeats).is_over for each in self.lines
        )

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
    def is_over(self) -> bool:
        """Whether its player closed it."""
        return self.row.closed_at is not None

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
    core, usual = (shortened(named.core, each) for each in (minutes, max(minutes, named.core.minutes)))
    keys = practised(player, named, today)
    asked, held = (
        _asked(named, plan(each, start=today, days=1, chosen=[today], practised=keys), row) for each in (core, usual)
    )
    words = {one.word for one in asked}
    beyond = [one for one in held if one.word not in words]  # what a shorter session has no room for
    climbs = climbs_of(player, now)
    known = known_of(player, (one.entry for one in (*asked, *beyond) if one.entry), climbs, now)
    is_off = _is_off(player, today)
    repeats = routine.repeats + is_off

    def lines_of(some: Iterable[SlotEntry]) -> list[ItemLine]:
        items = [item_of(player, one, known, now, (routine.low, routine.high)) for one in some]
        return [_line(item, takes, row, repeats) for item in items]

    # What was played, or skipped, stays in the day though the rest of it was made shorter.
    stays = [replace(line, is_over=True) for line in lines_of(beyond) if line.spent.takes or line.is_skipped]
    order = {one.word: index for index, one in enumerate(held)}
    lines = sorted([*stays, *lines_of(asked)], key=lambda line: order.get(line.item.word, len(order)))
    kept = {block.name for block in core.blocks}
    left_out = tuple(block.name for block in named.core.blocks if block.name not in kept)
    pause = _pause(player, takes, row, now)
    return Today(today, row, routine, lines, takes, minutes, away, left_out, pause, is_off, climbs, repeats)


@dataclass(frozen=True, slots=True)
class NextLine:
    """Where a day goes on: the line that comes next, None where nothing is left."""

    day: Today
    line: ItemLine | None


def following_address(player: Player, now: datetime) -> NextLine | None:
    """Return what comes next while a day is gone through; None outside of one."""
    running = Day.objects.filter(player=player, day=timezone.localtime(now).date(), closed_at=None)
    if not running.exclude(began_at=None).exists():
        return None
    found = today_of(player, now)
    return NextLine(found, found.next) if found else None


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
    """Return the keys of each exercise whose takes have keys, the one played last at the end; one query."""
    entries = ((one, named.entry(one.block, one.name)) for one in named.core.exercises if one.keys)
    turns = [(one, entry) for one, entry in entries if entry and (entry.exercise_id or entry.is_drill)]
    if not turns:
        return {}
    wholes = Exercise.objects.of(player).filter(
        Q(pk__in=[entry.exercise_id for _, entry in turns if entry.exercise_id])
        | Q(shelf_slug__in=[entry.slug for _, entry in turns if entry.slug])
        | Q(own_drill__in=[entry.own_drill_id for _, entry in turns if entry.own_drill_id])
    )
    rows = (
        Take.objects.telling_of(player)
        .filter(exercise__whole__in=wholes, session__day__lt=before)
        .exclude(exercise__music_key="")
        .values_list(*(f"exercise__whole__{name}" for name in ("pk", "shelf_slug", "own_drill")), "exercise__music_key")
        .annotate(last=Max("started_at"))
        .order_by("last")
    )
    found: defaultdict[object, list[str]] = defaultdict(list)
    for *whole, key, _ in rows:
        for name in filter(None, whole):  # of a ladder by its number, of a drill by its slug or id
            found[name].append(key)
    keys = ((one, found[entry.exercise_id or entry.slug or entry.own_drill_id]) for one, entry in turns)
    return {one.name: [spelled(key, one.keys.all) for key in some] for one, some in keys if one.keys}


def takes_today(player: Player, today: date) -> list[TakeFacts]:
    """Return the takes of a day, ascending; one query."""
    return facts_of(Take.objects.telling_of(player).filter(session__day=today).order_by("started_at"))


def days_away(player: Player, today: date) -> int:
    """Return how many full days there was no take before today; 0 where there never was one."""
    last = Take.objects.telling_of(player).filter(session__day__lt=today).aggregate(last=Max("session__day"))["last"]
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
        word = word_of(slot, entry)
        found.append(SlotEntry(slot, word, by_id.get(row.swapped.get(word, "")) or entry))
    return found


def word_of(slot: Slot, entry: Entry | None) -> str:
    """Return what names a slot within its day: by what is planned there, whatever that is called."""
    return "/".join((slot.block, str(entry.pk) if entry else slot.exercise, slot.key))
