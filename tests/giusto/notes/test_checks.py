"""Onset times at the public door: each fault with its place, in an array and in a file."""

from unittest import TestCase

import numpy as np

from giusto.errors import GiustoError
from giusto.notes.checks import LATEST_S, MAX_ONSETS, checked_onsets


class CheckTests(TestCase):
    def test_the_first_fault_is_named_with_its_place(self) -> None:
        """Two faults of each kind, the later one by another number: the first is told, by index and by line."""
        for onsets, code, told in (
            ([0.0, np.inf, np.nan, 1.0], "not_finite", r"inf at (index 1|line 30)$"),
            ([0.0, 2e6, 3e6, 4e6], "out_of_range", r"within ±1,000,000 s: 2000000.0 at (index 1|line 30)$"),
            ([0.0, 2.0, 1.0, 0.5], "not_ascending", r"1.0 s after 2.0 s at (index 2|line 40)$"),
        ):
            for lines in (None, [20, 30, 40, 50]):
                with self.subTest(code, lines=lines), self.assertRaisesRegex(GiustoError, told) as caught:
                    checked_onsets(onsets, lines=lines)
                self.assertEqual(caught.exception.code, code)

    def test_what_lies_on_a_limit_is_allowed(self) -> None:
        self.assertEqual(checked_onsets([-LATEST_S, LATEST_S]).tolist(), [-LATEST_S, LATEST_S])
        self.assertEqual(checked_onsets([1.0, 1.0]).tolist(), [1.0, 1.0])  # two hands at once
        self.assertEqual(checked_onsets([]).size, 0)

    def test_shape_and_number(self) -> None:
        with self.assertRaisesRegex(GiustoError, "one dimension, not 2"):
            checked_onsets([[1.0, 2.0]])
        checked_onsets(np.zeros(MAX_ONSETS))
        with self.assertRaisesRegex(GiustoError, "1,000,001 onsets, allowed are 1,000,000"):
            checked_onsets(np.zeros(MAX_ONSETS + 1))
