"""The weeks, and what a day's page does with what is posted: small pages, each asked for one thing."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any
from unittest import TestCase as PlainTestCase

from django.test import TestCase

from giusto.plan.routine import Exercise
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from studio.plans.actions import day_of
from studio.plans.entries import _renamed, targets
from studio.plans.models import Day, Entry, Routine, Week
from studio.plans.week_views import _date, _monday
from studio.plans.weeks import minutes_by_day
from studio.takes.models import Take
from tests.studio.ladders.climbing import at, ladder_core, send, short
from tests.studio.plans.test_today import MONDAY, a_routine, in_technique


class DateTests(PlainTestCase):
    def test_a_day_as_it_is_written_or_none(self) -> None:
        for text, expected in (
            ("2026-11-02", date(2026, 11, 2)),
            ("2000-01-01", date(2000, 1, 1)),
            ("1999-12-31", None),
            ("2200-01-01", date(2200, 1, 1)),
            ("2200-01-02", None),
            ("x", None),
            (None, None),
        ):
            self.assertEqual(_date(text), expected, text)

    def test_weeks_begin_on_a_monday(self) -> None:
        today = date(2026, 11, 4)
        self.assertEqual(_monday("", today), date(2026, 11, 2))
        self.assertEqual(_monday("2026-11-08", today), date(2026, 11, 2))
        self.assertEqual(_monday("2026-11-09", today), date(2026, 11, 9))


class RenamedTests(PlainTestCase):
    def exercise(self, name: str, ladder: str | None = None) -> Exercise:
        """Return an exercise of a routine."""
        return Exercise(name=name, block="technique", minutes=4, ladder=ladder)

    def test_what_has_another_name_now_is_called_so(self) -> None:
        plain = self.exercise("Quarters")
        self.assertEqual(_renamed(plain, "Fourths").name, "Fourths")
        self.assertIs(_renamed(plain, ""), plain)  # it stands for nothing as yet
        self.assertIs(_renamed(plain, "Quarters"), plain)

    def test_of_a_ladder_its_own_title_stays_and_the_same_title_goes_along(self) -> None:
        titled = _renamed(self.exercise("Hands", "Quarters"), "Fourths")
        self.assertEqual((titled.name, titled.ladder), ("Hands", "Fourths"))
        same = _renamed(self.exercise("quarters", "Quarters"), "Fourths")
        self.assertEqual((same.name, same.ladder), ("Fourths", "Fourths"))
        as_it_is = self.exercise("Hands", "Quarters")
        self.assertIs(_renamed(as_it_is, "Quarters"), as_it_is)


class WeekPageTests(TestCase):
    def setUp(self) -> None:
        self.routine = a_routine({"name": "Every beat", "block": "warm-up", "minutes": 2}, in_technique("Rolls"))

    def weeks(self, address: str = "/weeks/", *, day: int = 0) -> Any:
        """Return what the page of the weeks shows, so many days after the Monday."""
        with at(MONDAY + timedelta(days=day)):
            return self.client.get(address).context

    def test_four_weeks_of_which_two_are_shown_day_by_day(self) -> None:
        page = self.weeks(day=2)
        self.assertEqual([week.monday.day for week in page["weeks"]], [2, 9, 16, 23])
        self.assertEqual(len(page["fortnight"]), 14)
        days = page["weeks"][0].days
        self.assertEqual([day.is_today for day in days], [False, False, True, False, False, False, False])
        self.assertEqual([day.is_past for day in days], [True, True, False, False, False, False, False])
        self.assertEqual([day.is_on for day in days], [True, True, False, True, False, False, False])
        self.assertEqual([day.minutes for day in days], [0, 0, 0, 10, 0, 0, 0])  # what is past is what was played
        self.assertEqual([day.is_on for day in page["weeks"][3].days], [True, True, False, True, False, False, False])
        self.assertEqual((page["before"], page["after"]), (date(2026, 10, 5), date(2026, 11, 30)))
        self.assertEqual([week.is_chosen for week in page["weeks"]], [False] * 4)
        self.assertEqual(page["heading"], "The weeks")

    def test_today_has_its_slots_and_the_last_day_that_is_shown_too(self) -> None:
        page = self.weeks()
        self.assertEqual(page["weeks"][0].days[0].minutes, 10)
        self.assertEqual(page["weeks"][3].days[3].minutes, 10)
        past = self.weeks("/weeks/?from=2026-10-05")
        self.assertEqual(sum(day.minutes for week in past["weeks"] for day in week.days), 0)
        self.assertEqual(past["weeks"][0].monday, date(2026, 10, 5))

    def test_a_goal_heads_its_week_and_chosen_days_are_told(self) -> None:
        player = local_player()
        Week.objects.create(player=player, monday=date(2026, 11, 2), days=None, goal="Softer")
        Week.objects.create(player=player, monday=date(2026, 11, 9), days=["2026-11-15"], goal="Evener")
        page = self.weeks()
        self.assertEqual(page["heading"], "Softer")
        self.assertEqual([week.goal for week in page["weeks"]], ["Softer", "Evener", "", ""])
        self.assertEqual([week.is_chosen for week in page["weeks"]], [False, True, False, False])
        self.assertEqual([day.date.day for day in page["weeks"][1].days if day.is_on], [15])
        self.assertEqual(self.weeks(day=7)["heading"], "Evener")

    def test_no_day_at_all_may_be_chosen_and_none_of_another_week(self) -> None:
        with at(MONDAY):
            self.client.post("/weeks/choose/", {"monday": "2026-11-09", "goal": " x" * 150})
        week = Week.objects.get()
        self.assertEqual((week.days, len(week.goal)), ([], 200))
        with at(MONDAY):
            self.client.post("/weeks/choose/", {"monday": "2026-11-09", "day": ["2026-11-15", "2026-11-16"]})
        self.assertEqual(Week.objects.get().days, ["2026-11-15"])

    def test_minutes_of_a_stretch_the_last_day_not_included(self) -> None:
        for day in (0, 1, 7):
            send(self.client, short(), clean=True, moment=MONDAY + timedelta(days=day))
        played_s = [take.reading.played_s for take in Take.objects.order_by("started_at")]
        found = minutes_by_day(local_player(), date(2026, 11, 2), date(2026, 11, 9))
        self.assertEqual(found, {date(2026, 11, 2 + k): round(played_s[k] / 60) for k in (0, 1)})
        self.assertEqual(sum(found.values()), self.weeks(day=7, address="/weeks/?from=2026-11-02")["weeks"][0].played)

    def test_the_feed_is_opened_renewed_and_closed(self) -> None:
        tokens = []
        for is_open in ("1", "1", ""):
            self.client.post("/weeks/feed/", {"open": is_open})
            tokens.append(Routine.objects.get().token)
        self.assertTrue(tokens[0])
        self.assertNotEqual(tokens[0], tokens[1])
        self.assertIsNone(tokens[2])


class DayPostTests(TestCase):
    def setUp(self) -> None:
        self.ladder = start_ladder(player=local_player(), ladder=ladder_core())
        a_routine({"name": "Every beat", "block": "warm-up", "minutes": 2}, in_technique("Quarters"))

    def post(self, path: str, **words: str) -> Any:
        """Post to a page of today, on the Monday."""
        with at(MONDAY):
            answer = self.client.post(f"/today/{path}/", words)
        self.assertEqual(answer.status_code, 302, path)
        return answer

    def lines(self) -> list[Any]:
        """Return the lines of the day."""
        with at(MONDAY):
            return [line.line for line in self.client.get("/today/").context["lines"]]

    def day(self) -> Day:
        """Return how the day is gone through."""
        return day_of(local_player(), MONDAY.date())

    def test_begun_it_leads_to_its_first_line_and_over_to_the_next_where_that_is_asked(self) -> None:
        first, second, *_ = self.lines()
        answer = self.post("over", word=first.item.word)
        self.assertEqual(answer.url, "/today/")  # the day has not begun
        self.post("over", word=first.item.word, over="0")
        self.assertEqual(self.post("begin").url, first.item.url)
        self.assertEqual(self.post("over", word=first.item.word).url, "/today/")  # on the page itself one stays there
        self.post("over", word=first.item.word, over="0")
        self.assertEqual(self.post("over", word=first.item.word, play="1").url, second.item.url)
        self.assertEqual(self.post("over", word=first.item.word, over="0", play="1").url, "/today/")

    def test_minutes_are_from_one_to_a_day_that_is_long(self) -> None:
        for text, expected in (("1", 1), ("600", 600), ("601", 600), ("0", 600), ("x", 600), ("٣", 600), ("", None)):
            self.post("minutes", minutes=text)
            self.assertEqual(self.day().minutes, expected, text)

    def test_closed_and_opened_again_and_when_it_began_stays(self) -> None:
        self.post("close")
        self.assertEqual((self.day().began_at, self.day().closed_at), (MONDAY, MONDAY))  # closed before it was begun
        self.post("close", open="1")
        self.assertEqual((self.day().began_at, self.day().closed_at), (MONDAY, None))
        later = MONDAY + timedelta(minutes=9)
        with at(later):
            self.client.post("/today/close/")
        self.assertEqual((self.day().began_at, self.day().closed_at), (MONDAY, later))

    def test_swapped_by_a_name_that_is_there(self) -> None:
        word = self.lines()[1].item.word
        self.post("swap", word=word, name="HEAR the bar")
        swapped = self.lines()[1].item
        self.assertEqual(swapped.word, word)
        self.assertEqual(swapped.name, "Hear the bar")
        self.post("swap", word=word, name="nothing of ours")
        self.assertEqual(self.lines()[1].item.name, swapped.name)
        self.post("swap", word=word, name="")
        self.assertEqual(self.lines()[1].item.name, "Quarters")

    def test_of_two_with_one_name_the_ladder_comes_first(self) -> None:
        found = targets(local_player())
        self.assertEqual(found["quarters"].exercise_id, self.ladder.exercise_id)
        self.assertEqual(found["reach"].name, "Reach")
        self.assertEqual(found["every beat"].slug, "every-beat")
        self.assertEqual(Entry.objects.count(), 2)  # of the routine alone: what is offered is not kept
