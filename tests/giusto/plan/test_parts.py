"""Split exercises: which part comes next, by hand (common practice)."""

from __future__ import annotations

from datetime import date
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from giusto.plan.parts import ExercisePart, next_part, spelled

DAYS = [date(2026, 11, day) for day in range(1, 29)]


class PartTests(TestCase):
    def test_the_harder_hand_first_then_both_together(self) -> None:
        left, right = ExercisePart("left", "", "", 3, 2), ExercisePart("right", "", "", 2, 1)
        self.assertEqual(next_part([left, right]), 1)
        self.assertEqual(next_part([left, right, ExercisePart("together", "", "", 1, 0)]), 2)
        self.assertEqual(next_part([left, right, ExercisePart("together", "", "", 2, 1)]), 1)
        climbed = ExercisePart("right", "", "", 5, 5, is_done=True)
        self.assertEqual(next_part([left, climbed, ExercisePart("together", "", "", 2, 2)]), 0)

    def test_of_two_hands_alike_the_one_that_rested_longer(self) -> None:
        left, right = (
            ExercisePart("left", "", "", 2, 1, played=DAYS[5]),
            ExercisePart("right", "", "", 2, 1, played=DAYS[4]),
        )
        self.assertEqual(next_part([left, right, ExercisePart("together", "", "", 2, 1, played=DAYS[1])]), 1)

    def test_the_weakest_section_of_the_key_that_was_not_played_for_longest(self) -> None:
        parts = [
            ExercisePart("", "C", "first line", 1, 2, played=DAYS[3]),
            ExercisePart("", "F", "first line", 1, 1, played=DAYS[1]),
            ExercisePart("", "F", "second line", 1, 0, played=DAYS[2]),
        ]
        self.assertEqual(next_part(parts), 2)
        self.assertEqual(next_part([*parts, ExercisePart("", "G", "first line", 1, 0)]), 3)
        self.assertIsNone(next_part([ExercisePart("", "C", "", 3, 3, is_done=True)]))

    @given(st.integers(2, 12), st.integers(1, 3))
    def test_no_key_twice_before_all_once(self, keys: int, hands: int) -> None:
        names = ("left", "right", "together")[:hands]
        parts = [ExercisePart(hand, f"key {key}", "", 1, 0) for key in range(keys) for hand in names]
        came = []
        for day in DAYS[:keys]:
            index = next_part(parts)
            assert index is not None
            came.append(parts[index].key)
            played = parts[index]
            parts[index] = ExercisePart(played.hand, played.key, "", 1, 0, played=day)
        self.assertEqual(len(set(came)), keys)


class SpelledTests(TestCase):
    def test_a_key_as_it_stands_there(self) -> None:
        some = ["Bb", "C", "a", "A", "F#"]
        found = [spelled(key, some) for key in ("bb", "c", "a", "A", "f#", "G", "H")]
        self.assertEqual(found, ["Bb", "C", "a", "A", "F#", "G", "H"])
