"""What the days of the weeks to come say, and what a day that is over came to: of slots written by hand."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from types import SimpleNamespace
from typing import Any
from unittest import TestCase

from giusto.plan.days import Slot
from giusto.practice.ladder import Why
from studio.ladders.words import day_word
from studio.plans.items import _on
from studio.plans.views import _day, _shown
from studio.plans.week_views import DayLine, WeekLine, _changes, _goal_of, _same
from studio.plans.weeks import due_today
from studio.plans.words import _closed, closing, lead

MONDAY = date(2026, 11, 2)


def slot(exercise: str, key: str = "", *, day: int = 0, block: str = "hands", minutes: int = 10) -> Slot:
    """Return a slot of a day so many after the Monday."""
    at = MONDAY + timedelta(days=day)
    return Slot(at, datetime.combine(at, datetime.min.time()), block, exercise, key, minutes, "every day")


def day_line(number: int, *slots: Slot) -> DayLine:
    """Return a day of a week that holds some slots."""
    return DayLine(MONDAY + timedelta(days=number), True, False, False, [*slots], 0, [])


class WeekLineTests(TestCase):
    def test_what_every_day_holds_is_said_once_and_what_it_holds_besides_at_its_day(self) -> None:
        free = slot("", block="play")
        days = [
            day_line(0, slot("Rolls"), slot("Scales", "C"), slot("Scales", "F"), free),
            day_line(1),  # nothing on it
            day_line(2, slot("Rolls"), slot("Scales", "G"), slot("Sight"), slot("Sight"), free),
        ]
        same = _same(days)
        self.assertEqual(same, ["Rolls", "play"])
        self.assertEqual(_changes(days[0], same), ["Scales: C, F"])
        self.assertEqual(_changes(days[2], same), ["Scales: G", "Sight"])
        self.assertEqual(_same([]), [])
        self.assertEqual(_same(days[:1]), ["Rolls", "play"])
        self.assertEqual(days[0].minutes, 40)

    def test_the_goal_of_the_week_that_is_now(self) -> None:
        weeks = [WeekLine(MONDAY + timedelta(weeks=n), f"goal {n}", [], 0, False) for n in range(3)]
        for day, expected in ((0, "goal 0"), (6, "goal 0"), (7, "goal 1"), (20, "goal 2"), (21, ""), (-1, "")):
            self.assertEqual(_goal_of(weeks, MONDAY + timedelta(days=day)), expected)

    def test_the_next_day_by_its_name(self) -> None:
        self.assertEqual(_day(None, MONDAY), "")
        self.assertEqual(_day(MONDAY + timedelta(days=1), MONDAY), "tomorrow")
        self.assertEqual(_day(MONDAY + timedelta(days=2), MONDAY), "Wednesday 4 November")


class DueTests(TestCase):
    def test_only_what_is_to_be_checked_after_a_night(self) -> None:
        some: Any = [SimpleNamespace(step=SimpleNamespace(why=why)) for why in (Why.EDGE, Why.OVERNIGHT, Why.STREAK)]
        climbs: Any = SimpleNamespace(by_exercise=dict(enumerate(some)))
        self.assertEqual(due_today(climbs), [some[1]])


def item_line(*, takes: int = 0, over: bool = False, skipped: bool = False, url: str = "/play/", **slots: Any) -> Any:
    """Return a line of a day."""
    item = SimpleNamespace(name="Rolls", what="Three clean.", exercise=1, wrote="", url=url, drill=None)
    item.slot = slot("Rolls", **slots)
    spent = SimpleNamespace(takes=takes, played=timedelta(seconds=90 * takes))
    return SimpleNamespace(item=item, spent=spent, is_over=over, is_skipped=skipped)


class DayTests(TestCase):
    def today(self, **words: Any) -> Any:
        """Return a day of the plan."""
        usual = {"minutes": 40, "away": 0, "left_out": (), "lines": [], "next": None, "is_closed": False}
        return SimpleNamespace(**(usual | words))

    def test_what_it_holds_in_a_sentence(self) -> None:
        for minutes, expected in ((40, "40 minutes."), (2, "Two minutes."), (1, "One minute.")):
            self.assertEqual(lead(self.today(minutes=minutes)), expected)
        in_keys = [item_line(key="C"), item_line(), item_line(key="C")]
        self.assertTrue(lead(self.today(lines=in_keys)).endswith("One key today: C."))
        self.assertTrue(lead(self.today(lines=[*in_keys, item_line(key="F")])).endswith("Two keys today: C and F."))
        self.assertIn("No room today for play.", lead(self.today(left_out=("play",))))

    def test_what_a_line_came_to(self) -> None:
        self.assertTrue(_closed(item_line(takes=2)).done.endswith(". Three clean."))
        self.assertEqual(_closed(item_line(skipped=True, over=True)).done, "skipped")
        self.assertEqual(_closed(item_line(skipped=True, over=True, url="")).done, "done")  # nothing was to be played
        self.assertEqual(_closed(item_line(over=True)).done, "done")
        self.assertEqual(_closed(item_line()).done, "not today")

    def test_lines_hang_below_each_other_and_the_next_one_is_marked(self) -> None:
        lines = [item_line(minutes=5), item_line(minutes=10), item_line(minutes=1)]
        shown = _shown(self.today(lines=lines, next=lines[1]))
        self.assertEqual([one.number for one in shown], [1, 2, 3])
        self.assertEqual([one.from_minute for one in shown], [0, 5, 15])
        self.assertEqual([one.is_next for one in shown], [False, True, False])
        self.assertEqual([len(one.ticks) for one in shown], [4, 9, 0])
        apart = {round(b - a, 1) for a, b in zip(shown[1].ticks, shown[1].ticks[1:], strict=False)}
        self.assertLessEqual(max(apart) - min(apart), 0.11)
        self.assertAlmostEqual(shown[1].ticks[4], shown[1].height / 2, delta=0.05)
        self.assertEqual([one.height for one in shown], [76.0, 116.0, 76.0])  # 11.6 px a minute, never less than 76
        closed = _shown(self.today(lines=lines, next=lines[1], is_closed=True))
        self.assertFalse(any(one.is_next for one in closed))

    def test_what_the_day_came_to_in_whole_minutes_and_what_was_played_beside_it(self) -> None:
        """Four takes of ten minutes and five seconds, two of them of the plan's exercise."""
        takes = [SimpleNamespace(exercise=exercise, played_s=605.0) for exercise in (1, 2, 1, 3)]
        line = item_line(takes=2, over=True)
        line.item.exercises = frozenset({1})
        found = closing(self.today(lines=[line], takes=takes))
        self.assertEqual((found.minutes, found.takes), (40, 4))
        self.assertEqual([one.name for one in found.lines], ["Rolls", "Beside the plan"])
        self.assertEqual(found.lines[1].done, "two takes, 20 min")


class WordTests(TestCase):
    def test_a_day_is_today_yesterday_or_on_a_day(self) -> None:
        self.assertEqual(_on(MONDAY, MONDAY), "today")
        self.assertEqual(_on(MONDAY - timedelta(days=1), MONDAY), "yesterday")
        self.assertEqual(_on(MONDAY - timedelta(days=3), MONDAY), f"on {day_word(MONDAY - timedelta(days=3), MONDAY)}")
