"""The calendar's file and its private address, read back by icalendar and recurring-ical-events."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import recurring_ical_events
from django.test import Client, TestCase
from icalendar import Calendar

from studio.accounts.models import local_player
from studio.plans.actions import choose_week
from studio.plans.models import Routine
from tests.studio.ladders.climbing import at
from tests.studio.plans.test_today import a_routine

# The clocks of Vienna go forward on 28 March 2027, from two to three.
BEFORE = datetime(2027, 3, 22, 9, tzinfo=UTC)
VIENNA = ZoneInfo("Europe/Vienna")


class CalendarTests(TestCase):
    def setUp(self) -> None:
        a_routine({"name": "Every beat", "block": "warm-up", "minutes": 2}, zone="Europe/Vienna")

    def file(self) -> bytes:
        with at(BEFORE):
            return self.client.get("/weeks/plan.ics").content

    def test_a_session_is_at_six_on_both_sides_of_the_clocks_change(self) -> None:
        events = recurring_ical_events.of(Calendar.from_ical(self.file())).between(BEFORE.date(), date(2027, 4, 3))
        starts = sorted(event["DTSTART"].dt for event in events)
        self.assertEqual([start.day for start in starts], [22, 23, 25, 29, 30, 1])
        self.assertEqual({start.astimezone(VIENNA).hour for start in starts}, {18})
        self.assertEqual({start.astimezone(UTC).hour for start in starts}, {17, 16})
        self.assertIn("Every beat", str(events[0]["DESCRIPTION"]))

    def test_chosen_days_and_the_reminder_are_in_it(self) -> None:
        choose_week(player=local_player(), monday=date(2027, 3, 29), days=[date(2027, 3, 31)], goal="")
        Routine.objects.update(alarm_minutes=15)
        found = Calendar.from_ical(self.file())
        days = [event["DTSTART"].dt.date() for event in found.walk("VEVENT")]
        self.assertIn(date(2027, 3, 31), days)
        self.assertNotIn(date(2027, 3, 30), days)
        self.assertEqual({alarm["TRIGGER"].dt for alarm in found.walk("VALARM")}, {-timedelta(minutes=15)})

    def test_the_private_address_is_unguessable_and_revocable(self) -> None:
        self.assertEqual(self.client.get("/calendar/.ics").status_code, 404)
        self.client.post("/weeks/feed/", {"open": "1"})
        token = Routine.objects.get().token
        self.assertIsNotNone(token)
        self.assertGreaterEqual(len(str(token)), 43)  # 32 bytes
        stranger = Client()  # without a session, as a calendar program
        with at(BEFORE):
            answer = stranger.get(f"/calendar/{token}.ics")
        self.assertEqual(answer["Content-Type"], "text/calendar; charset=utf-8")
        self.assertEqual(len(Calendar.from_ical(answer.content).walk("VEVENT")), 12)
        self.client.post("/weeks/feed/", {"open": "1"})
        self.assertEqual(stranger.get(f"/calendar/{token}.ics").status_code, 404)
        self.client.post("/weeks/feed/", {"open": "0"})
        self.assertEqual(stranger.get(f"/calendar/{token}.ics").status_code, 404)
        self.assertIsNone(Routine.objects.get().token)

    def test_an_event_keeps_its_uid_when_the_plan_changes(self) -> None:
        first = {event["UID"] for event in Calendar.from_ical(self.file()).walk("VEVENT")}
        Routine.objects.update(weekly_minutes=90)
        self.assertEqual({event["UID"] for event in Calendar.from_ical(self.file()).walk("VEVENT")}, first)
