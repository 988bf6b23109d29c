"""The page of the routine by itself: what moves where, what is opened, and the words of a block and an exercise."""

from __future__ import annotations

from datetime import date
from types import SimpleNamespace
from typing import Any
from unittest import TestCase

from django.http import QueryDict

from studio.plans.routine_page import BlockLine, ExerciseLine, changed, lines, when_words
from studio.plans.week_views import _date

NAMED = ["Rolls", "Scales", "Doubles", "", "Flams", ""]
BLOCKS = ["Hands", "Notes", "hands", "Hands", "HANDS", ""]


def page(**words: str) -> QueryDict:
    """Return a page with five exercises, one of them taken out, and an empty one; one alone has keys."""
    data = QueryDict(mutable=True)
    data["exercise-TOTAL_FORMS"] = str(len(NAMED))
    for index, (name, block) in enumerate(zip(NAMED, BLOCKS, strict=True)):
        data[f"exercise-{index}-name"], data[f"exercise-{index}-block"] = name, block
    data["exercise-0-keys"] = "C, F"
    data["block-0-name"], data["block-1-name"] = "Hands", "Notes"
    data.update(words)
    return data


def names(data: QueryDict) -> list[str]:
    """Return the names of a page's exercises."""
    return [str(data[f"exercise-{index}-name"]) for index in range(len(NAMED))]


class MoveTests(TestCase):
    def test_an_exercise_changes_places_with_the_next_of_its_block_however_that_is_written(self) -> None:
        for move, expected in (
            ("later-0", ["Doubles", "Scales", "Rolls", "", "Flams", ""]),
            ("earlier-2", ["Doubles", "Scales", "Rolls", "", "Flams", ""]),
            ("later-2", ["Rolls", "Scales", "Flams", "", "Doubles", ""]),  # past one that was taken out
            ("earlier-4", ["Rolls", "Scales", "Flams", "", "Doubles", ""]),
            ("later-4", NAMED),
            ("earlier-0", NAMED),
            ("later-1", NAMED),
            ("earlier-1", NAMED),
            ("out-2", ["Rolls", "Scales", "", "", "Flams", ""]),
            ("sideways-2", NAMED),
        ):
            with self.subTest(move):
                self.assertEqual(names(changed(page(move=move))[0]), expected)

    def test_all_its_words_go_along(self) -> None:
        data, opened = changed(page(move="later-0", open="exercise-0"))
        self.assertEqual([data["exercise-0-keys"], data["exercise-2-keys"]], ["", "C, F"])
        self.assertEqual([data["exercise-0-block"], data["exercise-2-block"]], ["hands", "Hands"])
        self.assertEqual(opened, "")

    def test_one_comes_into_a_block_as_the_last_and_is_opened(self) -> None:
        data, opened = changed(page(add="in-1"))
        self.assertEqual((data["exercise-5-block"], opened), ("Notes", "exercise-5"))
        data, opened = changed(page(**{"add": "in-1", "exercise-TOTAL_FORMS": "none"}))
        self.assertEqual((data["exercise-0-block"], opened), ("Notes", "exercise-0"))

    def test_what_may_be_opened(self) -> None:
        for asked in ("when", "finer", "block-0", "exercise-12"):
            self.assertEqual(changed(page(open=asked))[1], asked)
        for asked in ("", "all", "block-", "exercise-1000"):
            self.assertEqual(changed(page(open=asked))[1], "")


def form(**words: Any) -> Any:
    """Return a form with these words in it."""
    given = {"keys": "", "per_session": "", "season_from": "", "weeks_on": "", "weeks_off": ""}
    given |= {"least": "10", "most": None, "flexible": False} | words
    return {name: SimpleNamespace(value=lambda value=value: value) for name, value in given.items()}


def told(blocks: list[Any], exercises: list[Any], opened: str = "") -> list[BlockLine]:
    """Return a page's blocks."""
    whole: Any = SimpleNamespace(blocks=SimpleNamespace(forms=blocks), exercises=SimpleNamespace(forms=exercises))
    return lines(whole, opened)


class LinesTests(TestCase):
    def test_each_exercise_stands_in_its_block_and_one_without_in_the_first(self) -> None:
        found = told(
            [form(name=""), form(name="Hands"), form(name="Notes")],
            [form(name="Scales", block="notes"), form(name="Rolls", block="Hands "), form(name="Flams", block="None")],
        )
        self.assertEqual([(one.index, one.name) for one in found], [(1, "Hands"), (2, "Notes")])
        self.assertEqual([[one.name for one in block.exercises] for block in found], [["Rolls", "Flams"], ["Scales"]])
        self.assertEqual([one.index for one in found[0].exercises], [1, 2])

    def test_what_is_opened_is_there_though_it_has_no_name(self) -> None:
        found = told([form(name="Hands"), form(name="")], [form(name="", block="")], "block-1")
        self.assertEqual([one.is_open for one in found], [False, True])
        found = told(
            [form(name="Hands"), form(name="")], [form(name="", block=""), form(name="", block="")], "exercise-1"
        )
        self.assertEqual([(one.index, one.is_open) for one in found[0].exercises], [(1, True)])

    def test_minutes(self) -> None:
        for words, expected in (
            ({}, "10 minutes"),
            ({"most": "10"}, "10 minutes"),
            ({"most": "20"}, "10 to 20 minutes"),
            ({"most": "20", "flexible": True}, "10 to 20 minutes, stretching"),
        ):
            self.assertEqual(told([form(name="Hands", **words)], [])[0].minutes, expected)

    def test_keys_and_seasons(self) -> None:
        season = {"season_from": "2026-11-02"}
        for words, expected in (
            ({}, ""),
            ({"keys": "all"}, "1 key a day"),
            ({"keys": "all", "per_session": "1"}, "1 key a day"),
            ({"keys": "C, F", "per_session": "2"}, "2 keys a day"),
            (season, "4 weeks on from 2026-11-02, 4 off"),
            (season | {"weeks_on": "6", "weeks_off": "2"}, "6 weeks on from 2026-11-02, 2 off"),
            (season | {"keys": "C"}, "1 key a day, 4 weeks on from 2026-11-02, 4 off"),
        ):
            (block,) = told([form(name="Hands")], [form(name="Rolls", block="Hands", **words)])
            (line,) = block.exercises
            assert isinstance(line, ExerciseLine)
            self.assertEqual(line.words, expected)

    def test_days(self) -> None:
        def days(*chosen: str) -> tuple[str, str]:
            whole: Any = SimpleNamespace(form={"days": SimpleNamespace(value=lambda: list(chosen))})
            return when_words(whole)

        week = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
        self.assertEqual(days(*week), ("Every day", ""))
        self.assertEqual(days(*week[:6]), ("Six days a week", "resting on Sunday"))
        self.assertEqual(days(*week[:4]), ("Four days a week", "resting on Friday, Saturday and Sunday"))
        self.assertEqual(days("mon", "wed", "fri"), ("Three days a week", ""))
        self.assertEqual(days("mon"), ("One day a week", ""))


class DateTests(TestCase):
    def test_days_of_two_centuries(self) -> None:
        for text in ("2000-01-01", "2026-11-02", "2200-01-01"):
            self.assertEqual(_date(text), date.fromisoformat(text))
        for text in ("1999-12-31", "2200-01-02", "2026-02-30", "", None, "Monday"):
            self.assertIsNone(_date(text))
