"""The schools in words: each has some, each reason has some, and the form says what the file says."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from types import SimpleNamespace

from django.test import TestCase

from giusto.practice.ladder import RULES, Why, ladder_of
from studio.accounts.models import local_player
from studio.exercises.actions import set_off_day
from studio.ladders.actions import start_ladder
from studio.ladders.forms import RuleForm, words_of
from studio.ladders.schools import SCHOOLS, WORDS, plain_rule, words_of_rule
from studio.ladders.standing import standings
from studio.ladders.words import REASONS, school
from studio.takes.models import Take
from tests.drills import plain
from tests.giusto.practice.ladder.test_rules import EXAMPLES
from tests.studio.playing import play

VARY = {"what": "tempo", "from": 96, "to": 112, "by": 4}


def ladder(kind: str):  # type: ignore[no-untyped-def]
    rule = {"kind": kind, **EXAMPLES[kind]}
    return ladder_of({"giusto": "ladder/1", "drill": plain(), "vary": VARY, "rule": rule})


class SchoolsTests(TestCase):
    def test_every_school_and_every_reason_has_words(self) -> None:
        self.assertEqual(set(SCHOOLS), set(RULES))
        self.assertEqual(set(REASONS), set(Why))
        for kind in RULES:
            with self.subTest(school=kind):
                self.assertEqual(set(EXAMPLES[kind]), {WORDS[name].path for name in SCHOOLS[kind].usual})
                self.assertTrue(school(ladder(kind)))

    def test_words_and_rule_say_the_same(self) -> None:
        for kind in RULES:
            core = ladder(kind)
            with self.subTest(school=kind):
                self.assertEqual(plain_rule(kind, words_of_rule(core.rule)), core.rule.model_dump())

    def test_the_page_says_every_rule_and_takes_another(self) -> None:
        kept = start_ladder(player=local_player(), ladder=ladder("streak"))
        for kind in RULES:
            with self.subTest(school=kind):
                words = {name: "" if value is None else value for name, value in words_of(kept).items()}
                page = self.client.post(kept.get_absolute_url(), words | {"kind": kind}, headers={"HX-Request": "true"})
                self.assertEqual(page.status_code, 200, page.context["form"].errors)
                kept.refresh_from_db()
                self.assertEqual(kept.spec["rule"]["kind"], kind)
                form = RuleForm(None, ladder=kept)
                said = "".join(piece if isinstance(piece, str) else "_" for piece in form.sentence)
                self.assertEqual(said.count("_"), len(SCHOOLS[kind].usual))
                self.assertContains(page, form.sentence[0])

    def test_one_night_and_two_nights(self) -> None:
        kept = start_ladder(player=local_player(), ladder=ladder("edge"))
        said = "".join(p if isinstance(p, str) else "_" for p in RuleForm(None, ladder=kept).sentence)
        self.assertTrue(said.endswith("for _ night."))
        kept.spec = {**kept.spec, "rule": {"kind": "edge", "clean": 3, "nights": 2}}
        said = "".join(p if isinstance(p, str) else "_" for p in RuleForm(None, ladder=kept).sentence)
        self.assertTrue(said.endswith("for _ nights."))

    def test_a_rule_that_nobody_knows_is_an_error_and_never_the_last_of_a_list(self) -> None:
        with self.assertRaises(KeyError):
            school(SimpleNamespace(rule=SimpleNamespace(kind="lucky")))  # type: ignore[arg-type]


class OffDayTests(TestCase):
    def test_an_off_day_called_after_three_clean_takes_takes_nothing_back(self) -> None:
        """The fault of the review: three clean, then off day, and nothing secure."""
        drill = plain(cycles=8, silence=None)
        kept = start_ladder(
            player=local_player(),
            ladder=ladder_of(
                {"giusto": "ladder/1", "drill": drill, "vary": VARY, "rule": {"kind": "streak", "clean": 3}}
            ),
        )
        now = datetime(2026, 11, 2, 17, tzinfo=UTC)  # in the middle of a day
        for number in range(3):
            play(
                self.client, drill=drill, seed=number + 1, started_at=(now - timedelta(minutes=9 - number)).isoformat()
            )
        Take.objects.update(exercise=kept.exercise, said_clean=None)
        before = standings([kept], now)[0].step
        self.assertEqual((before.rung, before.secure), (2, 1))
        set_off_day(player=local_player(), at=now, is_off=True)
        step = standings([kept], now)[0].step
        self.assertEqual((step.rung, step.secure, step.needs), (2, 1, {"clean": 4, "so_far": 0}))
        set_off_day(player=local_player(), at=now, is_off=False)
        self.assertEqual(standings([kept], now)[0].step, before)
