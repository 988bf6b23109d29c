"""Simulated learners: whoever comes on gets there, and each school keeps what it promises."""

from unittest import TestCase

from giusto.practice.ladder import ladder_of
from giusto.simulation.learner import SCHOOLS, Learner, climb, schools
from tests.drills import plain

VARY = {"what": "tempo", "from": 60, "to": 84, "by": 4}


def ladder(name: str):  # type: ignore[no-untyped-def]
    return ladder_of({"giusto": "ladder/1", "drill": plain(), "vary": VARY, **SCHOOLS[name]})


class LearnerTests(TestCase):
    def test_who_comes_on_gets_there_and_who_does_not_stalls(self) -> None:
        fast = climb(ladder("three clean in a row"), Learner(gain=0.08), seed=1)
        never = climb(ladder("five a week"), Learner(gain=0.0), seed=1)
        assert fast.days
        self.assertLess(fast.days, 60)
        self.assertIsNone(never.days)
        self.assertGreater(never.worst_stall, 100)
        self.assertEqual(climb(ladder("three clean in a row"), Learner(gain=0.08), seed=1), fast)

    def test_mostly_right_is_mostly_right(self) -> None:
        found = climb(ladder("mostly right"), Learner(gain=0.03), seed=2)
        self.assertTrue(0.6 <= found.share_clean <= 0.9, found)

    def test_five_a_week_takes_its_weeks(self) -> None:
        found = climb(ladder("five a week"), Learner(skill=20.0), seed=3)
        assert found.days
        self.assertEqual(
            found.days, 15
        )  # by fours, five a week: 68 in the first, 76 in the second, 84 on the third Monday

    def test_every_school_is_walked_by_the_same_learners(self) -> None:
        names = [name for name, found in schools(seed=1, learners=0)]
        self.assertEqual(names, list(SCHOOLS))
