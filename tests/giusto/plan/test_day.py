"""The rules of a day, each by hand; all of them ours or common practice."""

from datetime import timedelta
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from giusto.plan.day import GAP, Spent, challenge, is_break, is_over, leaning_lately, session_minutes, spent
from tests.giusto.practice.over_takes import EVENING, facts

MINUTE = timedelta(minutes=1)


class SessionTests(TestCase):
    def test_eased_after_a_break_unless_it_was_chosen(self) -> None:
        self.assertEqual([session_minutes(60, away=days) for days in (0, 6, 7, 30)], [60, 60, 40, 40])
        self.assertEqual(session_minutes(60, away=30, chosen=25), 25)
        self.assertEqual([is_break(days) for days in (6, 7)], [False, True])


class SpentTests(TestCase):
    def takes(self, *minutes: float, played_s: float = 60):  # type: ignore[no-untyped-def]
        return [facts(at=EVENING + at * MINUTE, played_s=played_s) for at in minutes]

    def test_takes_and_the_short_gaps_between_them(self) -> None:
        self.assertEqual(spent([]), Spent(0, timedelta()))
        self.assertEqual(spent(self.takes(0)), Spent(1, MINUTE, played=MINUTE))
        self.assertEqual(spent(self.takes(0, 3)), Spent(2, 4 * MINUTE, played=2 * MINUTE))

    def test_a_gap_of_five_minutes_is_no_practice(self) -> None:
        gap = GAP / MINUTE
        self.assertEqual(gap, 5)
        self.assertEqual(spent(self.takes(0, 1 + gap)).time, 2 * MINUTE)
        self.assertAlmostEqual(spent(self.takes(0, 0.9 + gap)).time / MINUTE, 2 + gap - 0.1)

    def test_an_item_is_over_when_half_a_take_is_wanting(self) -> None:
        """Two takes of one minute each in 3:40: half of what a take took is 55 s, so 4:30 is reached, 4:40 is not."""
        found = Spent(2, timedelta(minutes=3, seconds=40))
        self.assertTrue(is_over(found, minutes=4.5))
        self.assertFalse(is_over(found, minutes=4 + 2 / 3))

    def test_half_of_one_take_of_three(self) -> None:
        """Three takes of one minute each: half of one is 30 s."""
        found = Spent(3, 3 * MINUTE)
        self.assertTrue(is_over(found, minutes=3.5))
        self.assertFalse(is_over(found, minutes=3.51))

    def test_repeats(self) -> None:
        few = Spent(2, 2 * MINUTE)
        self.assertFalse(is_over(few, minutes=20))
        self.assertFalse(is_over(few, minutes=20, repeats=3))
        self.assertTrue(is_over(few, minutes=20, repeats=2))
        self.assertFalse(is_over(Spent(0, timedelta()), minutes=0, repeats=0))  # what was not played is not over

    @given(st.lists(st.floats(0.5, 30), max_size=8))
    def test_never_less_than_the_takes_nor_more_than_the_clock(self, steps: list[float]) -> None:
        at, some = 0.0, []
        for step in steps:
            at += step + 1
            some += self.takes(at)
        found = spent(some)
        self.assertGreaterEqual(found.time, len(some) * MINUTE - timedelta(seconds=1))
        if some:
            self.assertLessEqual(found.time, some[-1].end - some[0].at + timedelta(seconds=1))


class ChallengeTests(TestCase):
    def test_too_easy_too_hard_and_right(self) -> None:
        """Mostly right with a miss now and then: 70 to 85 of a hundred (common practice)."""
        for clean, steps in ((12, 1), (11, 1), (10, None), (9, None), (8, -1), (0, -1)):
            with self.subTest(clean=clean):
                found = challenge([True] * clean + [False] * (12 - clean), low=0.7, high=0.85)
                self.assertEqual(found and found.steps, steps)

    def test_only_the_last_dozen_count(self) -> None:
        self.assertIsNone(challenge([True] * 11, low=0.7, high=0.85))
        found = challenge([False] * 30 + [True] * 12, low=0.7, high=0.85)
        self.assertEqual((found and found.steps, found and found.attempts), (1, 12))


class LeaningTests(TestCase):
    def test_two_of_the_last_three(self) -> None:
        self.assertEqual(leaning_lately(["rushed", "held", "rushed"]), (-1, 2))
        self.assertEqual(leaning_lately(["dragged"] * 5), (1, 3))
        self.assertEqual(leaning_lately(["rushed", "rushed", "held", "held"]), (0, 0))
        self.assertEqual(leaning_lately(["rushed", "dragged", "held"]), (0, 0))
        self.assertEqual(leaning_lately([]), (0, 0))
