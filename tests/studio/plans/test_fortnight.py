"""A fortnight from an empty log: planned, practised by a simulated hand through the real pages, printed, taken away."""

from __future__ import annotations

import io
from datetime import UTC, datetime, timedelta

from django.test import TestCase

from studio.accounts.models import local_player
from studio.archive.writing import write_archive
from studio.ladders.models import Ladder
from studio.ladders.standing import standings
from studio.plans.models import Day
from studio.takes.models import Take
from tests.studio.ladders.climbing import at, play_asked

MONDAY = datetime(2026, 11, 2, 18, tzinfo=UTC)
DAYS, MISSED, MOST_A_DAY = 14, 5, 30


class FortnightTests(TestCase):
    def practise(self, moment: datetime) -> int:
        """Go through a day as its pages lead; return how many takes that made."""
        count = 0
        with at(moment):
            answer = self.client.post("/today/begin/")
        url = answer.url  # type: ignore[attr-defined]
        while "/play/" in url:
            with at(moment):
                take = play_asked(self.client, url, clean=True, moment=moment)
            moment += timedelta(seconds=take.reading.played_s + 10)
            with at(moment):
                url = self.client.get(take.get_absolute_url()).context["flow"].url
            count += 1
            self.assertLess(count, MOST_A_DAY)
        with at(moment):
            self.assertTrue(self.client.get("/today/").context["today"].is_closed)
        return count

    def test_planned_practised_and_printed(self) -> None:
        with at(MONDAY):
            self.client.post("/routine/preset/", {"preset": "five"})
            weeks = self.client.get("/weeks/").context["weeks"]
        self.assertEqual(sum(day.is_on for week in weeks[:2] for day in week.days), DAYS)
        takes = 0
        for day in range(DAYS):
            if day != MISSED:
                takes += self.practise(MONDAY + timedelta(days=day))
        self.assertEqual(Take.objects.count(), takes)
        self.assertEqual(Day.objects.count(), DAYS - 1)
        after = MONDAY + timedelta(days=DAYS)
        ladder = standings([Ladder.objects.get()], after)[0]
        rungs = [one.rung for one in ladder.tried]
        self.assertGreater(max(rungs[-6:]), max(rungs[:3]))  # clean every time: it rises
        with at(after):
            line = self.client.get("/today/").context["lines"][1].line
            self.assertRegex(line.item.why, r"of 100 takes should be clean here; 1[0-2] of the last 12 were$")
            month = self.client.get("/progress/month/2026/11/")
            weeks = self.client.get("/weeks/?from=2026-11-02").context["weeks"]
            progress = self.client.get("/progress/")
        self.assertEqual(month.context["month"].days_played, DAYS - 1)
        self.assertContains(month, Ladder.objects.get().name)
        played = [day.played for week in weeks[:2] for day in week.days]
        self.assertEqual([day for day, minutes in enumerate(played) if not minutes], [MISSED])
        self.assertContains(progress, "You hold")
        buffer = io.BytesIO()
        self.assertEqual(write_archive(local_player(), buffer)["takes"], takes)
