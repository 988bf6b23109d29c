"""A ladder as it is drawn: which rungs, how far it is held, where the threads of its parts hang; what one take did."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from typing import Any
from uuid import UUID, uuid4

from django.test import TestCase

from giusto.practice.ladder import Ladder, climbed, step_from
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from studio.ladders.attempts import Tried
from studio.ladders.keys_picture import draw_keys
from studio.ladders.memory import Past
from studio.ladders.parts import parts_of
from studio.ladders.picture import THREAD_H, THREAD_W, DrawnRung, Gap, rungs, summary
from studio.ladders.standing import LadderStanding, done_by
from studio.takes.thread import path_of
from tests.studio.ladders.placed import LONG, MONDAY, SHORT, attempt, standing, tried


class RungsTests(TestCase):
    def drawn(self, takes: list[Tried], **changes: Any) -> list[DrawnRung | Gap]:
        """Return the rungs of the long ladder on its tenth, nine of them held."""
        on_ten = {"rung": 10, "secure": 9, "needs": {"clean": 3, "so_far": 1}, "done": False, "edge": None}
        return rungs(standing(LONG, takes, **(on_ten | changes)), MONDAY.date() + timedelta(days=1))

    def test_today_and_its_neighbours_are_drawn_and_stretches_without_a_take_are_one_gap(self) -> None:
        takes = [*(tried(3, minute=minute) for minute in range(6)), *(tried(10, minute=10 + n) for n in range(5))]
        drawn = self.drawn(takes, offered=11)
        told = [one.number if isinstance(one, DrawnRung) else (one.count, one.hangs) for one in drawn]
        # The second is alone between two that are drawn: no gap. Two above today's and two below it.
        self.assertEqual(told, [1, 2, 3, (4, True), 8, 9, 10, 11, 12, (18, False), 31])
        of = {one.number: one for one in drawn if isinstance(one, DrawnRung)}
        self.assertEqual([of[3].count, len(of[3].threads), of[3].more], [6, 1, 5])  # passed: the newest alone
        self.assertEqual([of[10].count, len(of[10].threads), of[10].more], [5, 4, 1])
        self.assertEqual([one.label for one in of[3].threads], [f"{takes[5].at:%-d %B, %H:%M}: clean"])
        self.assertEqual(of[3].threads[0].path, path_of([0.0, 0.0], width=THREAD_W, height=THREAD_H))
        self.assertEqual({number for number, one in of.items() if one.hangs}, {1, 2, 3, 8, 9})
        self.assertEqual({number for number, one in of.items() if not one.leads}, {31})
        states = {number: one.state for number, one in of.items() if number > 8}
        self.assertEqual(states, {9: "secure", 10: "now", 11: "ahead", 12: "ahead", 31: "ahead"})
        self.assertEqual([of[number].says for number in (8, 9, 10, 31)], ["", "held", "today", "the goal"])
        self.assertIn("easy here", of[11].says)
        self.assertEqual([of[3].last, of[8].last], ["yesterday", ""])
        self.assertEqual([of[3].value, of[31].value], ["64", "120"])

    def test_of_a_rung_that_is_held_the_newest_take_alone_unless_it_is_played_now(self) -> None:
        takes = [tried(9, minute=minute) for minute in range(3)]
        for now, threads in ((10, 1), (9, 3)):
            of = {one.number: one for one in self.drawn(takes, rung=now) if isinstance(one, DrawnRung)}
            self.assertEqual(len(of[9].threads), threads)

    def test_what_is_asked_stands_in_posts(self) -> None:
        of = {one.number: one for one in self.drawn([]) if isinstance(one, DrawnRung)}
        self.assertEqual([post.is_solid for post in of[10].posts], [True, False, False])
        apart = {round(b.x - a.x, 6) for a, b in zip(of[10].posts, of[10].posts[1:], strict=False)}
        self.assertEqual(apart, {of[10].posts_width / 3})
        self.assertEqual([of[10].so_far, of[9].so_far, of[11].posts], [1, 0, []])

    def test_a_take_that_is_open_one_that_is_asked_about_and_one_that_was_not_clean(self) -> None:
        asked = tried(11, minute=1, clean=None)
        half = replace(tried(11, minute=2, clean=None), chance=0.5)
        drawn = self.drawn([asked, half, tried(11, minute=3, clean=False)])
        (eleven,) = (one for one in drawn if isinstance(one, DrawnRung) and one.number == 11)
        self.assertEqual([one.sign for one in eleven.threads], ["asked", "asked", "stopped"])
        words = [one.label.rpartition(": ")[2] for one in eleven.threads]
        self.assertEqual(words, ["clean or not?", "open", "not clean"])
        self.assertEqual(eleven.state, "tried")

    def test_when_it_is_done(self) -> None:
        last = self.drawn([], rung=31, secure=31, needs=None, done=True)[-1]
        assert isinstance(last, DrawnRung)
        self.assertEqual([last.state, last.says, last.posts], ["secure", "held; the goal, reached", []])

    def test_in_a_sentence(self) -> None:
        self.assertEqual(summary(standing(SHORT, [])), "6 steps, no takes; nothing held yet, today at 60.")
        one = standing(SHORT, [tried(1)], secure=2, rung=3)
        self.assertEqual(summary(one), "6 steps, one take; held up to 64, today at 68.")
        self.assertIn("two takes", summary(standing(SHORT, [tried(1), tried(1, minute=1)])))


class KeysTests(TestCase):
    def parts(self, core: Ladder, keys: str = "C, F") -> list[LadderStanding]:
        """Return the parts of an exercise, both hands and each of them in each key."""
        whole = start_ladder(player=local_player(), ladder=core)
        self.client.post(f"/climb/{whole.pk}/split/", {"hands": "on", "keys": keys})
        return parts_of(local_player(), [whole.exercise_id], MONDAY)[whole.exercise_id]

    def test_threads_hang_as_far_as_they_are_held_each_key_in_its_column(self) -> None:
        parts = self.parts(SHORT)
        parts = [
            replace(one, step=replace(one.step, secure=number, rung=number + 1)) for number, one in enumerate(parts)
        ]
        picture = draw_keys(parts, parts[4], name="wide", width=450.0)
        # Fifty for the scale on the left, two columns of two hundred; three threads eleven apart about each middle.
        self.assertEqual(picture.heads, [(150.0, "C", False), (350.0, "F", True)])
        self.assertEqual(picture.bands, [(250.0, 198.0)])
        self.assertEqual([one.x for one in picture.threads], [139.0, 150.0, 161.0, 339.0, 350.0, 361.0])
        self.assertEqual([one.y for one in picture.threads], [36.0, 119.3, 202.7, 286.0, 369.3, 452.7])
        self.assertEqual([one.next_y for one in picture.threads], [119.3, 202.7, 286.0, 369.3, 452.7, 536.0])
        self.assertEqual([one.is_next for one in picture.threads], [False] * 4 + [True, False])
        self.assertEqual(picture.scale, [(round(36 + 500 * rung / 6, 1), str(56 + 4 * rung)) for rung in range(1, 7)])
        self.assertEqual([picture.wide, picture.off, picture.bottom], [11.0, -5.5, 536.0])
        self.assertEqual({one.url for one in picture.threads}, {one.ladder.get_absolute_url() for one in parts})

    def test_a_long_scale_has_few_lines_and_many_keys_are_near_each_other(self) -> None:
        picture = draw_keys(self.parts(LONG, "C, F, Bb, Eb"), None, name="narrow", width=82.0)
        self.assertEqual([word for _, word in picture.scale], ["68", "78", "88", "98", "108", "118", "120"])
        self.assertEqual([picture.wide, picture.bands], [8.0, []])


class DoneTests(TestCase):
    def done(self, takes: list[Tried], others: list[Tried], take: UUID, *, today: int = 0) -> Any:
        """Return what a take did; the last so many takes are of today."""
        kept = start_ladder(player=local_player(), ladder=SHORT)
        past, now = takes[: len(takes) - today], takes[len(takes) - today :]
        state = climbed(SHORT, [attempt(one) for one in past])
        step = step_from(SHORT, state, at=MONDAY + timedelta(days=9), off=False)
        made = tuple(attempt(one) for one in others)
        return done_by(LadderStanding(kept, Past(past, made, state), now, step, is_off=False), take)

    def test_what_was_made_elsewhere_before_it_counts_and_what_came_after_does_not(self) -> None:
        takes = [tried(1, minute=0), tried(1, minute=2), tried(1, day=1)]
        found = self.done(takes, [tried(1, minute=1)], takes[1].take)
        self.assertEqual([found.before.rung, found.after.rung, found.is_latest], [1, 2, False])
        found = self.done(takes, [tried(1, minute=3)], takes[1].take)
        self.assertEqual([found.before.rung, found.after.rung], [1, 1])
        self.assertTrue(self.done(takes, [], takes[2].take).is_latest)
        self.assertIsNone(self.done(takes, [], uuid4()))

    def test_of_today_what_came_before_today_is_not_replayed(self) -> None:
        takes = [tried(1), tried(1, minute=1), tried(1, day=1)]
        found = self.done(takes, [tried(1, minute=2), tried(1, day=1, minute=1)], takes[2].take, today=1)
        self.assertEqual([found.before.secure, found.after.secure, found.is_latest], [0, 1, True])
