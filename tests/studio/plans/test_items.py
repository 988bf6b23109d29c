"""What a slot of the plan asks for, of ladders that stand where the test puts them."""

from __future__ import annotations

from datetime import timedelta
from types import SimpleNamespace
from typing import Any

from django.test import TestCase

from giusto.plan.days import Slot
from giusto.practice.ladder import Why
from studio.ladders.standing import LadderStanding, play_address
from studio.plans.items import Item, SlotEntry, _climbed, _offered
from studio.plans.models import HIGH, LOW
from tests.studio.ladders.placed import LONG, MONDAY, SHORT, standing, tried

BAND = (LOW, HIGH)


def item(one: LadderStanding, *, minutes: int = 15, key: str = "") -> Item:
    """Return what a slot of so many minutes asks of a ladder."""
    slot = Slot(MONDAY.date(), MONDAY.replace(tzinfo=None), "technique", "Quarters", key, minutes, "every day")
    known: Any = SimpleNamespace(climbs=SimpleNamespace(parts={}))
    return _climbed(SlotEntry(slot, "technique-1", None), one, known, MONDAY.date() + timedelta(days=1), BAND)


class ClimbedTests(TestCase):
    def test_what_is_there_of_what_passes_and_what_comes_then(self) -> None:
        one = standing(SHORT, [], rung=2, secure=1, needs={"clean": 3, "so_far": 1}, done=False)
        found = item(one)
        self.assertEqual([found.so_far, found.wanted, found.then], [1, 3, "68"])
        self.assertIn(", then 68.", found.what)
        self.assertEqual([found.url, found.page], [play_address(one.ladder, 2), one.ladder.get_absolute_url()])
        self.assertEqual([found.target, found.exercise], [one.ladder.exercise_id] * 2)
        self.assertEqual(found.exercises, {one.ladder.exercise_id})

    def test_on_the_last_rung_nothing_comes_then(self) -> None:
        found = item(standing(SHORT, [], rung=6, secure=5, needs={"clean": 3, "so_far": 0}, done=False))
        self.assertEqual([found.then, found.wanted], ["", 3])
        self.assertNotIn("then", found.what)

    def test_where_nothing_more_is_asked_nothing_is_counted(self) -> None:
        found = item(standing(SHORT, [], rung=6, secure=6, needs=None, done=True))
        self.assertEqual([found.so_far, found.wanted, found.then], [0, 0, ""])
        self.assertNotIn("fit", found.what)

    def test_a_short_slot_says_how_many_of_its_takes_fit(self) -> None:
        one = standing(SHORT, [], rung=1, secure=0, needs={"clean": 3, "so_far": 0}, done=False)
        self.assertIn("Two fit in today.", item(one, minutes=1).what)  # four cycles of four beats at 60, and a count-in
        self.assertNotIn("fit", item(one, minutes=15).what)
        nearly = standing(SHORT, [], rung=1, secure=0, needs={"clean": 3, "so_far": 2}, done=False)
        self.assertNotIn("fit", item(nearly, minutes=1).what)


class OfferedTests(TestCase):
    def offered(self, clean: int, *, of: int = 12, rung: int = 5, **changes: Any) -> tuple[str, int]:
        """Return what is offered after takes of which so many were clean."""
        takes = [tried(rung, minute=number, clean=number < clean) for number in range(of)]
        given = {"rung": rung, "secure": rung - 1, "done": False, "why": Why.STREAK} | changes
        return _offered(standing(LONG, takes, **given), BAND)

    def test_above_the_band_a_harder_one_below_it_an_easier_one(self) -> None:
        told, rung = self.offered(12)
        self.assertRegex(told, r"^easy lately, (\d+) of \1 clean: 70 instead$")
        self.assertEqual(rung, 6)
        told, rung = self.offered(2)
        self.assertRegex(told, r"^hard lately, \d+ of \d+ clean: 66 instead$")
        self.assertEqual(rung, 4)

    def test_within_it_and_where_the_ladder_ends_none(self) -> None:
        self.assertEqual(self.offered(10), ("", 5))
        self.assertEqual(self.offered(0, rung=1), ("", 1))
        self.assertEqual(self.offered(12, rung=31), ("", 31))
        self.assertEqual(self.offered(12, rung=30)[1], 31)
        self.assertEqual(self.offered(0, rung=2)[1], 1)

    def test_where_its_rule_says_what_comes_none(self) -> None:
        self.assertEqual(self.offered(12, done=True), ("", 5))
        for why in (Why.EDGE, Why.STAYED, Why.WEEK_REACHED, Why.BAND):
            self.assertEqual(self.offered(12, why=why), ("", 5))
