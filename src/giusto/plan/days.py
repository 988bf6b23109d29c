"""Routine, days and minutes become a plan: a slot for each exercise and key, in the order of the blocks."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from fractions import Fraction
from typing import Any

from giusto.errors import GiustoError
from giusto.plan.routine import Block, Exercise, Routine

MOST_DAYS = 3660  # ours: ten years
# Ours: rotations of exercises without a season count their sessions from this Monday, so that plans from any day agree.
EPOCH = date(2001, 1, 1)
DAYS_A_WEEK = 7


@dataclass(frozen=True, slots=True)
class Slot:
    """A stretch of one day: what is practised then, and why.

    Attributes
    ----------
    date : date
    start : datetime
        By the clock of the routine's zone, without its offset.
    block, exercise, key : str
        An exercise of ``""`` is the block's own time; a key of ``""`` none.
    minutes : int
    why : str
    """

    date: date
    start: datetime
    block: str
    exercise: str
    key: str
    minutes: int
    why: str

    def plain(self) -> dict[str, Any]:
        """Return the slot as ``plan/1`` has it."""
        return {
            "date": self.date.isoformat(),
            "start": f"{self.start:%H:%M}",
            "block": self.block,
            "exercise": self.exercise or None,
            "key": self.key or None,
            "minutes": self.minutes,
            "why": self.why,
        }


def plan(
    routine: Routine,
    *,
    start: date,
    days: int,
    minutes: int | None = None,
    chosen: Collection[date] | None = None,
    practised: Mapping[str, Sequence[str]] | None = None,
) -> list[Slot]:
    """Return the slots of some days.

    Parameters
    ----------
    routine : Routine
    start : date
        The first day that is looked at.
    days : int
        How many, from 1; those that are none of practice stay empty.
    minutes : int or None
        Of each session; the routine's own where None is given.
    chosen : collection of date or None
        The days of practice, in place of the routine's days of the week.
    practised : mapping of str to sequence of str, or None
        The keys of each exercise in the order in which they were played up to now: then the key that was not played
        for longest comes first, so that a missed day takes no key with it. The keys of an exercise that isn't named
        there go by the calendar.

    Returns
    -------
    list of Slot

    Raises
    ------
    GiustoError
        ``days`` or ``minutes`` out of range.

    Notes
    -----
    Common practice: the same order every day, the last part stretches and shrinks. Each block starts from
    the middle of its range; what a session is longer or shorter than all of these, the flexible blocks take
    first, then the others in proportion, within their ranges. A session longer than all blocks together ends
    when they do. A block's exercises share it in proportion to their minutes; one with keys is a slot a key.
    """
    if not 1 <= days <= MOST_DAYS:
        raise GiustoError(f"days is {days}, allowed are 1 to {MOST_DAYS}", code="days")
    asked = routine.minutes if minutes is None else minutes
    if asked < routine.least:
        problem = f"minutes is {asked}, allowed is at least {routine.least}, the least of all blocks together"
        raise GiustoError(problem, code="minutes")
    try:
        last = start + timedelta(days=days - 1)
    except OverflowError:
        raise GiustoError(f"{days} days from {start} lie beyond the calendar", code="days") from None
    lengths = block_minutes(routine.blocks, asked)
    some = [start + timedelta(days=n) for n in range((last - start).days + 1)]
    kept = [day for day in some if (routine.is_on(day) if chosen is None else day in chosen)]
    played = None if practised is None else {name: list(keys) for name, keys in practised.items()}
    why = "" if minutes is None else f"a session of {asked} minutes"
    return [slot for day in kept for slot in _session(routine, day, lengths, why, played)]


def shortened(routine: Routine, minutes: int) -> Routine:
    """Return a routine whose blocks fit a session that is shorter than all of them together.

    Parameters
    ----------
    routine : Routine
    minutes : int
        From 1.

    Notes
    -----
    Ours: the flexible blocks are left out first, the last one first, then others from the end; a single block that is
    still too long is cut to the minutes that there are. Where all fit, the routine is returned as it is.
    """
    blocks = list(routine.blocks)
    while len(blocks) > 1 and sum(block.least for block in blocks) > minutes:
        blocks.remove(next((block for block in reversed(blocks) if block.flexible), blocks[-1]))
    if blocks[0].least > minutes and len(blocks) == 1:
        blocks = [blocks[0].model_copy(update={"minutes": (minutes, minutes)})]
    names = {block.name for block in blocks}
    kept = tuple(exercise for exercise in routine.exercises if exercise.block in names)
    return routine.model_copy(update={"blocks": tuple(blocks), "exercises": kept, "minutes": minutes})


def plain_plan(routine: Routine, slots: Sequence[Slot]) -> dict[str, Any]:
    """Return a plan as ``plan/1`` has it."""
    return {"giusto": "plan/1", "zone": routine.zone, "slots": [slot.plain() for slot in slots]}


def block_minutes(blocks: Sequence[Block], minutes: int) -> list[int]:
    """Return how many whole minutes each block gets of a session.

    Examples
    --------
    >>> some = [Block(name=name, minutes=m, flexible=f) for name, m, f in
    ...     [("warm-up", (5, 10), False), ("technique", (20, 35), False), ("application", (15, 30), True)]]
    >>> block_minutes(some, 60), block_minutes(some, 40), block_minutes(some, 75)
    ([8, 27, 25], [5, 20, 15], [10, 35, 30])
    """
    minutes = min(max(minutes, sum(block.least for block in blocks)), sum(block.most for block in blocks))
    lengths = [Fraction(block.least + block.most, 2) for block in blocks]
    for is_flexible in (True, False):
        some = [index for index, block in enumerate(blocks) if block.flexible is is_flexible]
        lengths = _stretched(blocks, lengths, some, minutes - sum(lengths, Fraction()))
    return _whole(lengths, [block.least for block in blocks], [block.most for block in blocks], minutes)


def _stretched(blocks: Sequence[Block], lengths: list[Fraction], some: list[int], more: Fraction) -> list[Fraction]:
    """Return lengths with more (or fewer) minutes for some blocks: in proportion to their own, within their ranges."""
    found = list(lengths)
    left = list(some)
    while more and left:
        total = sum(found[index] for index in left)
        wanted = {index: found[index] + more * found[index] / total for index in left}
        ends = {index: _within(blocks[index], wanted[index]) for index in left}
        at_end = [index for index in left if ends[index] != wanted[index]]
        moved = at_end or left
        more -= sum(ends[index] - found[index] for index in moved)
        for index in moved:
            found[index] = ends[index]
        left = [index for index in left if index not in at_end] if at_end else []
    return found


def _within(block: Block, minutes: Fraction) -> Fraction:
    return min(max(minutes, Fraction(block.least)), Fraction(block.most))


def _whole(lengths: Sequence[Fraction], least: Sequence[int], most: Sequence[int], total: int) -> list[int]:
    """Return whole numbers near the lengths that make the total, each in its range; the largest rests go up."""
    found = [max(int(length), low) for length, low in zip(lengths, least, strict=True)]
    order = sorted(range(len(found)), key=lambda index: found[index] - lengths[index])
    while sum(found) < total:
        index = next(i for i in order if found[i] < most[i])
        found[index] += 1
        order = [*(i for i in order if i != index), index]
    while sum(found) > total:
        index = next(i for i in reversed(order) if found[i] > least[i])
        found[index] -= 1
    return found


def _session(
    routine: Routine, day: date, lengths: Sequence[int], why: str, played: dict[str, list[str]] | None
) -> list[Slot]:
    """Return the slots of a day; the keys in them count as played from then on."""
    now = datetime.combine(day, routine.starts)
    found = []
    for block, minutes in zip(routine.blocks, lengths, strict=True):
        wanted = [
            (exercise, key, told)
            for exercise in routine.exercises
            if exercise.block == block.name
            for key, told in _turns(routine, exercise, day, played)
        ]
        for (name, key, told), length in _shared(wanted, minutes):
            found.append(Slot(day, now, block.name, name, key, length, ", ".join(filter(None, (told, why)))))
            now += timedelta(minutes=length)
    return found


def _shared(wanted: list[tuple[Exercise, str, str]], minutes: int) -> list[tuple[tuple[str, str, str], int]]:
    """Return the slots of a block and how long each is; without an exercise the block is one slot of its own."""
    if not wanted:
        return [(("", "", "the block’s own time"), minutes)]
    kept = wanted[:minutes]  # a minute at least for each
    parts = [Fraction(exercise.minutes, max(len(_keys(exercise)), 1)) for exercise, _, _ in kept]
    total = sum(parts)
    lengths = _whole([minutes * part / total for part in parts], [1] * len(parts), [minutes] * len(parts), minutes)
    named = [(exercise.name, key, told) for exercise, key, told in kept]
    return list(zip(named, lengths, strict=True))


def _keys(exercise: Exercise) -> range:
    return range(exercise.keys.per_session if exercise.keys else 0)


def _turns(
    routine: Routine, exercise: Exercise, day: date, played: dict[str, list[str]] | None
) -> list[tuple[str, str]]:
    """Return the keys of an exercise on a day, each with why: ``""`` where it has no keys, none in a week off."""
    season, told = exercise.season, "in every session"
    if season:
        week = (day - season.first).days // DAYS_A_WEEK
        turn = week % (season.weeks_on + season.weeks_off)
        if day < season.first or turn >= season.weeks_on:
            return []
        told = f"week {turn + 1} of {season.weeks_on} on"
    if not exercise.keys:
        return [("", told)]
    keys, per_session = exercise.keys.all, exercise.keys.per_session
    if played is not None and exercise.name in played:
        return _longest_ago(keys, per_session, played[exercise.name])
    first = _sessions_before(routine, exercise, day) * per_session
    places = [(first + n) % len(keys) for n in range(per_session)]
    return [(keys[place], f"key {place + 1} of {len(keys)}") for place in places]


def _longest_ago(keys: Sequence[str], count: int, played: list[str]) -> list[tuple[str, str]]:
    """Return the keys that were not played for longest, each with why, and write them down as played."""
    last = {key: index for index, key in enumerate(played)}
    chosen = sorted(keys, key=lambda key: last.get(key, -1))[:count]
    told = [(key, "longest ago of its keys" if key in last else "a key not played yet") for key in chosen]
    played += chosen
    return told


def _sessions_before(routine: Routine, exercise: Exercise, day: date) -> int:
    """Return how many sessions an exercise had from its season's start, or the epoch, up to a day."""
    season = exercise.season
    first = season.first if season else EPOCH
    weeks, rest = divmod((day - first).days, DAYS_A_WEEK)
    if season:
        rounds, turn = divmod(weeks, season.weeks_on + season.weeks_off)
        weeks = rounds * season.weeks_on + turn
    in_week = [routine.is_on(day - timedelta(days=n)) for n in range(1, rest + 1)]
    return weeks * len(routine.days) + sum(in_week)
