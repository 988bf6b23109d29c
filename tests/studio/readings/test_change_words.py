"""A change in words: a range that leaves out no change is never written as if it held it."""

from __future__ import annotations

import doctest
from unittest import TestCase

from studio.readings import change
from studio.readings.change import leaned, times


class RangeTests(TestCase):
    def test_examples_of_the_docstrings(self) -> None:
        found = doctest.testmod(change)
        self.assertGreater(found.attempted, 0)
        self.assertEqual(found.failed, 0)

    def test_an_end_beside_none_gets_digits_until_it_is_told_from_none(self) -> None:
        for low, written in ((-1.2, "1.2"), (-0.04, "0.04"), (-0.004, "0.004"), (-0.0004, "0.0004")):
            with self.subTest(low):
                self.assertIn(f"slower, {written} to", leaned(-2.0, -3.0, low))
        self.assertEqual(times(1.2, 1.004, 1.4), "1.20 times, 1.004 to 1.40")

    def test_a_range_over_none_says_both_ways(self) -> None:
        self.assertIn("0.0 slower to 0.3 faster", leaned(0.1, -0.04, 0.3))
