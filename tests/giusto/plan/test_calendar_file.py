"""The calendar file, read back by icalendar and recurring-ical-events (RFC 5545)."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from unittest import TestCase
from zoneinfo import ZoneInfo

import recurring_ical_events
from icalendar import Calendar

from giusto.plan.calendar_file import calendar_file
from giusto.plan.days import plan
from giusto.plan.routine import parse_routine
from tests.giusto.plan.test_days import MONDAY, routine

MADE = datetime(2026, 11, 26, 12, tzinfo=UTC)


class CalendarFileTests(TestCase):
    def read(self, *, start: date = MONDAY, days: int = 14, **changes: int) -> tuple[bytes, Calendar]:
        some = parse_routine(routine({"name": "Söhne; eins, zwei", "block": "technique", "minutes": 8}))
        text = calendar_file(some, plan(some, start=start, days=days), made=MADE, **changes)
        return text, Calendar.from_ical(text)

    def test_one_event_a_day_with_its_blocks_and_its_zone(self) -> None:
        text, found = self.read()
        events = recurring_ical_events.of(found).between(MONDAY, MONDAY + timedelta(days=14))
        self.assertEqual(len(events), 6)
        first = min(events, key=lambda event: event["DTSTART"].dt)
        vienna = ZoneInfo("Europe/Vienna")
        self.assertEqual(first["DTSTART"].dt, datetime(2026, 11, 30, 18, tzinfo=vienna))
        self.assertEqual(first["DTEND"].dt - first["DTSTART"].dt, timedelta(hours=1))
        lines = str(first["DESCRIPTION"]).split("\n")
        self.assertEqual(lines[1], "18:08 technique: Söhne; eins, zwei (27 min)")
        self.assertEqual([zone["TZID"] for zone in found.walk("VTIMEZONE")], ["Europe/Vienna"])
        self.assertTrue(all(len(line) <= 75 for line in text.split(b"\r\n")))

    def test_a_later_plan_changes_events_and_adds_none(self) -> None:
        uids = [{str(event["UID"]) for event in self.read(days=days)[1].walk("VEVENT")} for days in (7, 14)]
        self.assertEqual(len(uids[1]), 6)
        self.assertTrue(uids[0] < uids[1])

    def test_over_the_end_of_summer_time_it_stays_at_six(self) -> None:
        _, found = self.read(start=date(2026, 10, 19), days=14)
        starts = [event["DTSTART"].dt for event in found.walk("VEVENT")]
        self.assertEqual({f"{start:%H:%M}" for start in starts}, {"18:00"})
        self.assertEqual({start.utcoffset() for start in starts}, {timedelta(hours=2), timedelta(hours=1)})

    def test_an_alarm_if_asked(self) -> None:
        self.assertEqual(self.read()[1].walk("VALARM"), [])
        alarms = self.read(alarm_minutes=10)[1].walk("VALARM")
        self.assertEqual({alarm["TRIGGER"].dt for alarm in alarms}, {timedelta(minutes=-10)})

    def test_without_a_day_of_practice_it_is_empty(self) -> None:
        self.assertEqual(self.read(start=date(2026, 12, 4), days=2)[1].walk("VEVENT"), [])
