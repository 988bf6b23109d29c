"""A plan as a calendar file (RFC 5545): one event a day, its blocks in the description, its time zone defined."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from itertools import groupby
from zoneinfo import ZoneInfo

from icalendar import Alarm, Calendar, Event, Timezone

from giusto.plan.days import Slot
from giusto.plan.routine import Routine

PRODUCT = "-//Giusto//practice plan//EN"
SUMMARY = "Practice"


def calendar_file(
    routine: Routine, slots: Sequence[Slot], *, made: datetime, alarm_minutes: int | None = None
) -> bytes:
    """Return a plan as the text of an ``.ics`` file.

    Parameters
    ----------
    routine : Routine
        Whose zone the times are in.
    slots : sequence of Slot
        In order.
    made : datetime
        When the file is made, with its offset.
    alarm_minutes : int or None
        How long before a session the calendar reminds of it; None for no alarm.

    Notes
    -----
    An event's UID is made of its date and of what does not change from day to day in the routine (zone and names
    of blocks), so that a calendar that reads a later plan changes the event and does not add one.
    """
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    by_day = [(day, list(some)) for day, some in groupby(slots, key=lambda slot: slot.date)]
    if by_day:
        first, last = by_day[0][0].replace(month=1, day=1), by_day[-1][0].replace(month=12, day=31)
        calendar.add_component(Timezone.from_tzid(routine.zone, first_date=first, last_date=last))
    for _, some in by_day:
        calendar.add_component(_event(routine, some, made, alarm_minutes))
    return bytes(calendar.to_ical())


def _event(routine: Routine, slots: Sequence[Slot], made: datetime, alarm_minutes: int | None) -> Event:
    zone = ZoneInfo(routine.zone)
    begins, last = slots[0].start.replace(tzinfo=zone), slots[-1]
    event = Event()
    event.add("uid", f"{slots[0].date.isoformat()}-{_stamp(routine)}@giusto")
    event.add("dtstamp", made.astimezone(UTC))
    event.add("summary", SUMMARY)
    event.add("dtstart", begins)
    event.add("dtend", (last.start + timedelta(minutes=last.minutes)).replace(tzinfo=zone))
    event.add("description", "\n".join(_line(slot) for slot in slots))
    if alarm_minutes is not None:
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", SUMMARY)
        alarm.add("trigger", timedelta(minutes=-alarm_minutes))
        event.add_component(alarm)
    return event


def _line(slot: Slot) -> str:
    what = ", ".join(filter(None, (slot.exercise, slot.key)))
    return f"{slot.start:%H:%M} {slot.block}{': ' if what else ''}{what} ({slot.minutes} min)"


def _stamp(routine: Routine) -> str:
    text = "\n".join((routine.zone, *(block.name for block in routine.blocks)))
    return sha256(text.encode()).hexdigest()[:12]
