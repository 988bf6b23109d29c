"""A ladder in words, of attempts that are written down: what is asked, why, and what a take did to it."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from typing import Any
from unittest import TestCase
from zoneinfo import ZoneInfo

from giusto.practice.ladder import Attempt, Ladder, Step, Why, ladder_of, next_step
from studio.ladders.words import asked, counted, day_word, effect, goal, reason, rung_word, value_word, why
from tests.drills import fixed, plain
from tests.studio.ladders.climbing import ladder

MONDAY = datetime(2026, 11, 2, 18, tzinfo=ZoneInfo("Europe/Vienna"))
TEMPO = ladder_of(ladder())  # from 60 by four to 80, three clean in a row
SILENCE = ladder_of(
    ladder(drill=plain(silence=fixed(2, 1), cycles=12), vary={"what": "silence", "from": 1, "to": 4, "by": 1})
)
NOTES = ladder_of(ladder(drill=plain(grid=1), vary={"what": "notes", "steps": [1, 2, 4]}))


def made(*rows: tuple[int, int, bool], minutes: float = 1.0) -> list[Attempt]:
    """Return attempts: how many days after Monday, on which rung, whether clean; a minute apart."""
    return [
        Attempt(MONDAY + timedelta(days=day, minutes=number), rung, clean, minutes)
        for number, (day, rung, clean) in enumerate(rows)
    ]


def step(core: Ladder, attempts: list[Attempt], *, day: int = 0, off: bool = False) -> Step:
    """Return what is asked so many days after Monday, at seven."""
    return next_step(core, attempts, at=MONDAY + timedelta(days=day, hours=1), off=off)


def said(core: Ladder, attempts: list[Attempt], *, day: int = 0, is_off: bool = False) -> tuple[str, str]:
    """Return what is asked then, and why."""
    found = step(core, attempts, day=day, off=is_off)
    return asked(core, found), why(core, found, (MONDAY + timedelta(days=day)).date(), is_off=is_off)


@dataclass(frozen=True)
class Standing:
    """A ladder and its attempts, as the words want them."""

    core: Ladder
    attempts: list[Attempt]
    day: int = 0

    @property
    def ladder(self) -> Any:
        return self

    @property
    def tried(self) -> list[Attempt]:
        return self.attempts

    @property
    def step(self) -> Step:
        return step(self.core, self.attempts, day=self.day)

    def reason(self) -> str:
        """Return the reason told on its day."""
        return reason(self, (MONDAY + timedelta(days=self.day)).date())  # type: ignore[arg-type]


class NameTests(TestCase):
    def test_a_step_by_what_varies(self) -> None:
        self.assertEqual((value_word(TEMPO, 2), rung_word(TEMPO, 2)), ("64", "64"))
        self.assertEqual((value_word(SILENCE, 1), rung_word(SILENCE, 1)), ("1 alone", "1 bar alone"))
        self.assertEqual((value_word(SILENCE, 3), rung_word(SILENCE, 3)), ("3 alone", "3 bars alone"))
        self.assertEqual((value_word(NOTES, 3), rung_word(NOTES, 3)), ("sixteenths", "sixteenths"))

    def test_a_day_as_one_speaks_of_it(self) -> None:
        today = date(2026, 11, 12)
        for away, word in ((0, "today"), (1, "yesterday"), (-1, "tomorrow"), (2, "Tuesday"), (6, "Friday")):
            self.assertEqual(day_word(today - timedelta(days=away), today), word)
        for away, word in ((7, "5 November"), (-2, "14 November")):
            self.assertEqual(day_word(today - timedelta(days=away), today), word)


class AskedTests(TestCase):
    def test_at_first_and_as_clean_ones_come(self) -> None:
        self.assertEqual(said(TEMPO, []), ("Three clean at 60", "The first step. Then 64."))
        self.assertEqual(said(TEMPO, made((0, 1, True))), ("Two more clean at 60", "Then 64."))
        self.assertEqual(counted(step(TEMPO, made((0, 1, True)))), "1 of 3 clean")
        self.assertEqual(said(TEMPO, made(*[(0, 1, True)] * 3)), ("Three clean at 64", "Then 68."))

    def test_what_was_not_clean_leads_back(self) -> None:
        found = said(TEMPO, made(*[(0, 1, True)] * 3, (0, 2, False)))
        self.assertEqual(found[0], "Three clean at 60")
        self.assertEqual(found[1], "What was not clean leads back here, before a mistake is learned. Then 64.")

    def test_a_new_day_and_a_break(self) -> None:
        up = made(*[(0, 1, True)] * 3, *[(0, 2, True)] * 3)
        self.assertEqual(
            said(TEMPO, up, day=1),
            (
                "One clean at 64",
                "A new day begins a little below where the last one ended. One clean take a step leads back to 68.",
            ),
        )
        self.assertEqual(Standing(TEMPO, up, 1).reason(), "64, one step below yesterday")
        self.assertIn("Nine days away: it begins further back.", said(TEMPO, up, day=10)[1])
        self.assertRegex(Standing(TEMPO, up, 10).reason(), r"^6\d, nine days away, so \w+ steps? below 2 November$")
        self.assertIn("One day away", why(TEMPO, replace(step(TEMPO, up, day=10), away=1), MONDAY.date()))

    def test_the_last_step_and_the_top(self) -> None:
        top = made(*[(0, rung, True) for rung in range(1, 6) for _ in range(3)])
        self.assertEqual(said(TEMPO, top), ("Three clean at 80", "It is the last step."))
        done = made(*[(0, rung, True) for rung in range(1, 7) for _ in range(3)])
        self.assertEqual(said(TEMPO, done)[0], "Climbed to the top")

    def test_an_off_day_asks_one_more_and_nothing_higher(self) -> None:
        up = made(*[(0, 1, True)] * 3, *[(0, 2, True)] * 3)
        self.assertEqual(said(TEMPO, made((0, 1, True)), is_off=True)[0], "Three more clean at 60")
        what, reasons = said(TEMPO, up, day=1, is_off=True)
        self.assertEqual(what, "One clean at 64")  # on the way back one is enough all the same
        self.assertTrue(reasons.startswith("An off day: one clean take more a step, and nothing above 68."), reasons)

    def test_minutes_that_are_clean(self) -> None:
        core = ladder_of(ladder(rule={"kind": "stay", "minutes": 5}))
        found = said(core, made((0, 1, True), (0, 1, True)))
        self.assertEqual(found, ("3 min more, clean, at 60", "Clean minutes add up, over days too. Then 64."))
        self.assertEqual(counted(step(core, made((0, 1, True)))), "1 of 5 minutes")

    def test_in_all_and_not_in_a_row(self) -> None:
        core = ladder_of(ladder(rule={"kind": "total", "clean": 3}))
        found = said(core, made((0, 1, True), (0, 1, False), (0, 1, True)))
        self.assertEqual(found, ("One more clean at 60", "In a row or not, over days too. Then 64."))

    def test_mostly_right(self) -> None:
        core = ladder_of(ladder(rule={"kind": "band", "low": 0.7, "high": 0.85}))
        one = Standing(core, made(*[(0, 1, True)] * 9, *[(0, 1, False)] * 4))
        self.assertRegex(asked(core, one.step), r"^\d\d, as often as you like$")
        self.assertRegex(one.reason(), r"^\d\d: \d\d of 100 takes should be clean here; 8 of the last 12 were$")
        told = re.fullmatch(
            r"Here (\d\d) of 100 takes should be clean \((\d+) to (\d+)\)\.", why(core, one.step, MONDAY.date())
        )
        assert told
        estimate, low, high = map(int, told.groups())
        self.assertTrue(10 < low < estimate < high <= 100, told[0])
        self.assertEqual(counted(one.step), "nothing more is asked")

    def test_the_edge_and_a_night_later(self) -> None:
        core = ladder_of(ladder(rule={"kind": "edge", "clean": 1, "nights": 1}))
        found = step(core, made((0, 1, True), (0, 2, True), (0, 3, False)))
        self.assertEqual(found.why, Why.EDGE)
        self.assertEqual(
            why(core, found, MONDAY.date()), "68 was the edge today. No higher until tomorrow: sleep on it."
        )
        self.assertIn("68 was the edge on Monday", why(core, found, MONDAY.date() + timedelta(days=2)))
        self.assertIn("68 was the edge yesterday", why(core, found, MONDAY.date() + timedelta(days=1)))


class GoalTests(TestCase):
    def test_where_a_ladder_stands(self) -> None:
        def told(*rows: tuple[int, int, bool]) -> str:
            return goal(Standing(TEMPO, made(*rows)))  # type: ignore[arg-type]

        self.assertEqual(told(), "Not begun. From 60 to 80.")
        self.assertEqual(told((0, 1, True)), "Nothing held yet; the goal is 80.")
        self.assertEqual(told(*[(0, 1, True)] * 3), "60 is held; the goal is 80.")


class EffectTests(TestCase):
    def told(self, *rows: tuple[int, int, bool], core: Ladder = TEMPO, **changes: Any) -> str:
        """Return what the last of some attempts did."""
        attempts = made(*rows)
        before, after = step(core, attempts[:-1]), step(core, attempts)

        @dataclass
        class One:
            rung: int = attempts[-1].rung
            clean: bool | None = attempts[-1].clean
            chance: float | None = None
            said: bool | None = None
            is_asked: bool = False

        @dataclass
        class Done:
            tried: Any
            before: Any
            after: Any

        return effect(Done(One(**changes), before, after), core, MONDAY.date())  # type: ignore[arg-type]

    def test_each_end_that_a_take_may_come_to(self) -> None:
        self.assertEqual(self.told((0, 1, True)), "Clean at 60.")
        self.assertEqual(self.told((0, 1, True), said=True), "Clean at 60 by your word.")
        self.assertEqual(self.told(*[(0, 1, True)] * 3), "Clean at 60: 60 is held.")
        self.assertEqual(self.told(*[(0, 1, True)] * 3, (0, 2, False)), "Not clean at 64: back to 60.")
        self.assertEqual(self.told((0, 1, False)), "Not clean at 60.")
        self.assertEqual(self.told((0, 1, True), is_asked=True), "Nobody can say yet whether this one at 60 was clean.")
        self.assertEqual(
            self.told((0, 1, True), clean=None, chance=0.62),
            "Open at 60: one take tells too little, clean by 6 chances in ten.",
        )
        done = [(0, rung, True) for rung in range(1, 7) for _ in range(3)]
        self.assertEqual(self.told(*done), "Clean at 80: the top is reached.")

    def test_the_edge(self) -> None:
        core = ladder_of(ladder(rule={"kind": "edge", "clean": 1, "nights": 1}))
        self.assertEqual(
            self.told((0, 1, True), (0, 2, False), core=core),
            "Not clean at 64: that is the edge. No higher until tomorrow.",
        )
