"""Progress: what is held, figures week by week, rungs with their days, the month; by hand and by scipy."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any

import numpy as np
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from giusto.practice.course import Course
from giusto.practice.over_takes.figures import LEAN
from giusto.practice.over_takes.reaches import reach_at
from giusto.practice.over_takes.weekly import OverWeeks
from giusto.simulation.player import SimulatedPlayer
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from studio.ladders.standing import standings
from studio.progress.rungs import rung_rows, secure_by, stalled
from studio.progress.weeks import Figure, changes, figures, rows_of
from studio.progress.words import course_words, lean_heading
from studio.reach.tested import silences_until
from studio.reach.words import range_words, short_words
from studio.takes.heard import Device
from studio.takes.models import Take
from tests.drills import plain
from tests.studio.ladders.climbing import at, ladder_core, play_asked
from tests.studio.plans.test_today import a_routine
from tests.studio.playing import play

MONDAY = date(2026, 10, 5)
EVENING = datetime(2026, 10, 5, 18, tzinfo=UTC)


def take_on(client: Any, day: int, seed: int, bias: float = 0.0, bpm: float = 96) -> Take:
    """Send a take so many days after the first Monday."""
    moment = EVENING + timedelta(days=day, minutes=3 * seed)
    hand = SimulatedPlayer(bias_percent=bias, clock_percent=0.6, hand_ms=5.0)
    return play(client, drill=plain(bpm=bpm, cycles=16), player=hand, seed=seed, started_at=moment.isoformat())


class HeldTests(TestCase):
    def test_every_page_says_the_same_of_how_long_a_silence_is_held(self) -> None:
        """Reach, Today, Progress and the month, of the same takes in the same minute: one length, one range."""
        for seed in range(6):
            take_on(self.client, seed, seed + 1, 0.6)
        a_routine()
        with at(EVENING + timedelta(days=6)):
            pages = {path: self.client.get(path, follow=True) for path in ("/reach/", "/today/", "/progress/")}
            pages["month"] = self.client.get("/progress/month/2026/10/")
            known = silences_until(local_player(), EVENING + timedelta(days=6))
            found = reach_at(known, 96.0, EVENING + timedelta(days=6))
            length, ends = short_words(found), range_words(found.reach)
        for name, page in pages.items():
            with self.subTest(name, length=length, ends=ends):
                self.assertContains(page, length)
                self.assertContains(page, ends)
        self.assertIn("beats", length)

    def test_nobody_is_told_by_what_another_plays(self) -> None:
        take_on(self.client, 0, 1)
        self.assertTrue(silences_until(local_player(), EVENING + timedelta(days=1)))
        Take.objects.update(input="simulated")
        self.assertEqual(silences_until(local_player(), EVENING + timedelta(days=1)), [])

    def test_earlier_weeks_are_told_by_what_there_was_to_go_by_then(self) -> None:
        take_on(self.client, 0, 1, 4.0)
        take_on(self.client, 30, 2)
        with at(EVENING + timedelta(days=31)):
            page = self.client.get("/progress/figures/", {"until": "2026-10-11"})
        self.assertEqual(page.context["held"].reach.takes, 1)


class WeeklyTests(TestCase):
    def test_the_lean_of_a_week_is_the_pooled_mean_and_its_course_more_than_chance(self) -> None:
        for week, bias in ((0, -2.0), (1, -1.2), (2, -0.3)):
            for seed in range(4):
                take_on(self.client, 7 * week + seed, 10 * week + seed + 1, bias)
        rows = rows_of(local_player(), MONDAY, MONDAY + timedelta(weeks=4))
        lean = figures(rows, MONDAY, 4)[0]
        self.assertEqual([point.takes for point in lean.points], [4, 4, 4, 0])
        for point, bias in zip(lean.points[:3], (-2.0, -1.2, -0.3), strict=True):
            assert point.ci95
            self.assertLess(point.ci95[0], bias)
            self.assertGreater(point.ci95[1], bias)
        self.assertIsNone(lean.points[3].value)
        self.assertEqual(lean_heading(lean), "Less drag than before")
        self.assertIn("more than chance", course_words(lean))
        told = [one for row in rows[:4] if (one := LEAN.told(row))]
        mean = np.average([value for value, _ in told], weights=[1 / (v + 0.05) for _, v in told])
        self.assertAlmostEqual(float(mean), lean.points[0].value or 0.0, delta=0.15)  # near to a weighted mean

    def test_a_side_is_said_only_of_an_end_that_is_on_it(self) -> None:
        def heading(first: float, latest: float) -> str:
            change = latest - first
            course = Course(first, latest, change, (change - 0.4, change + 0.4), True, 40, 20, 0.1, 0.1)
            return lean_heading(Figure(OverWeeks(LEAN, [], course), "Lean", "%"))

        self.assertEqual(heading(0.7, -0.02), "Less rush than before")
        self.assertEqual(heading(0.02, -0.7), "More drag than before")
        self.assertEqual(heading(0.9, -0.6), "You used to rush, now you drag")
        self.assertEqual(heading(-1.2, -0.3), "Less drag than before")

    def test_too_few_are_said_and_not_filled_in(self) -> None:
        for seed in (1, 2):
            take_on(self.client, seed, seed, -2.0)
        lean = figures(rows_of(local_player(), MONDAY, MONDAY + timedelta(weeks=1)), MONDAY, 1)[0]
        self.assertEqual((lean.points[0].value, lean.points[0].takes, lean.course), (None, 2, None))
        self.assertEqual(course_words(lean), "Too few takes to say how it went.")

    def test_another_device_is_marked(self) -> None:
        take_on(self.client, 0, 1)
        other = take_on(self.client, 8, 2)
        other.device = Device(browser="another")
        other.save()
        found = changes(rows_of(local_player(), MONDAY, MONDAY + timedelta(weeks=2)))
        self.assertEqual(found, {MONDAY + timedelta(weeks=1): ["another device"]})


class RungTests(TestCase):
    def setUp(self) -> None:
        self.ladder = start_ladder(
            player=local_player(), ladder=ladder_core(rule={"kind": "streak", "clean": 1}, next_day={"back": 0})
        )

    def climb(self, days: int, *, clean: bool = True, first: int = 0) -> None:
        for day in range(first, first + days):
            moment = EVENING + timedelta(days=day)
            with at(moment):
                address = self.client.get(self.ladder.get_absolute_url()).context["standing"].url
                play_asked(self.client, address, clean=clean, moment=moment)

    def standing(self, day: int) -> Any:
        return standings([self.ladder], EVENING + timedelta(days=day))[0]

    def test_each_rung_with_the_day_on_which_it_became_secure(self) -> None:
        self.climb(3)
        rows = rung_rows(self.standing(2), MONDAY + timedelta(days=20))
        self.assertEqual([row.value for row in rows[:4]], ["60", "64", "68", "72"])
        self.assertEqual([row.since for row in rows[:4]], ["5 October", "6 October", "7 October", "now"])
        self.assertEqual([row.state for row in rows[:4]], ["secure", "secure", "secure", "now"])
        ends = [EVENING + timedelta(days=day, hours=3) for day in (-1, 0, 2)]
        self.assertEqual(secure_by(self.standing(3), ends), ["", "60", "68"])

    def test_what_stalled_is_said_only_after_weeks_of_trying(self) -> None:
        self.climb(2)
        self.climb(8, clean=False, first=30)
        today = MONDAY + timedelta(days=40)
        self.assertEqual(stalled([self.standing(40)], today), [])  # eight takes are too few
        self.climb(2, clean=False, first=38)
        self.assertEqual(len(stalled([self.standing(41)], today)), 1)


class PageTests(TestCase):
    def test_an_empty_log_has_pins_without_threads(self) -> None:
        page = self.client.get("/progress/")
        self.assertContains(page, "No silence yet.")
        self.assertContains(page, "It takes a few")
        self.assertNotContains(page, '<svg class="curve')
        for path in (
            "/progress/figures/",
            "/progress/exercises/",
            "/progress/month/",
            "/progress/month/2026/2/",
            "/progress/sheet/",
        ):
            self.assertEqual(self.client.get(path, follow=True).status_code, 200)
        for path in ("/progress/month/2026/13/", "/progress/month/1999/1/"):
            self.assertEqual(self.client.get(path).status_code, 404)
        self.assertEqual(self.client.get("/progress/figures/?until=x").status_code, 200)

    def test_queries_are_bounded_whatever_the_log(self) -> None:
        def asked(path: str) -> int:
            with CaptureQueriesContext(connection) as caught:
                self.assertEqual(self.client.get(path).status_code, 200)
            return len(caught)

        take_on(self.client, 0, 1)
        with at(EVENING + timedelta(days=20)):
            paths = ("/progress/", "/progress/figures/", "/progress/month/2026/10/", "/log/?q=two&tempo=90-100")
            before = [asked(path) for path in paths]
            for seed in range(2, 9):
                take_on(self.client, seed, seed)
            after = [asked(path) for path in paths]
        self.assertLessEqual(max(b - a for a, b in zip(before, after, strict=True)), 1)
        self.assertLess(max(after), 40)

    def test_the_month_tells_what_was_worked_on(self) -> None:
        for seed in range(1, 5):
            take_on(self.client, seed, seed, -1.5)
        page = self.client.get("/progress/month/2026/10/")
        month = page.context["month"]
        self.assertEqual((month.takes, month.days_played), (4, 4))
        self.assertEqual((month.worked[0].takes, month.worked[0].tempos), (4, "96"))
        self.assertEqual(month.minutes, sum(minutes for _, minutes in month.days))
        self.assertContains(page, "Lean when alone: ")
