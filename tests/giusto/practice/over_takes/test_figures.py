"""Each figure that is followed over takes: a take's value and how sure it is, by hand."""

from dataclasses import replace
from math import exp
from unittest import TestCase

from giusto.figures.place import Place
from giusto.practice.over_takes.facts import TakeFacts
from giusto.practice.over_takes.figures import (
    ALPHA,
    BY_WEEK,
    CLOCK,
    HAND,
    INDEPENDENT_SHARE,
    LEAN,
    PLACE,
    SPREAD,
    Followed,
    needed,
    pooled,
)
from giusto.tempo import slot_ms
from tests.giusto.practice.over_takes import FIGURES, facts, figures

HALF = 1.959964  # of a range of 95 %, in standard deviations


def told(one: Followed, take: TakeFacts) -> tuple[float, float]:
    """Return what a take tells of a figure, which it does."""
    found = one.told(take)
    assert found
    return found


class FigureTests(TestCase):
    def test_a_lean_and_its_variance(self) -> None:
        self.assertEqual(told(LEAN, facts())[0], -1.0)
        self.assertAlmostEqual(told(LEAN, facts())[1], (0.8 / (2 * HALF)) ** 2, places=5)

    def test_the_clock_as_a_share_of_a_slot_and_the_hand_in_milliseconds(self) -> None:
        """As the take alone says them, with the weak prior: never what earlier takes have pulled."""
        clock, hand = told(CLOCK, facts()), told(HAND, facts())
        self.assertAlmostEqual(exp(clock[0]), 100 * 6.0 / slot_ms(96, 2))
        self.assertAlmostEqual(clock[1], 0.2**2)
        self.assertAlmostEqual(exp(hand[0]), 5.0)
        self.assertAlmostEqual(hand[1], 0.25**2)

    def test_the_place_by_notes_of_which_a_share_is_independent(self) -> None:
        value, variance = told(PLACE, facts())
        self.assertEqual(value, -8.0)
        self.assertAlmostEqual(variance, 9.0**2 / (INDEPENDENT_SHARE * 40))
        few = figures(heard=replace(FIGURES.heard, n=1))
        self.assertAlmostEqual(told(PLACE, facts(figures=few))[1], 81.0)

    def test_the_spread_with_the_click_and_its_variance(self) -> None:
        """A logarithm of a standard deviation has about the variance 1 / (2 (n - 1)) (textbooks on estimation)."""
        value, variance = told(SPREAD, facts())
        self.assertAlmostEqual(exp(value), 100 * 9.0 / slot_ms(96, 2))
        self.assertAlmostEqual(variance, 1 / (2 * (INDEPENDENT_SHARE * 40 - 1)))

    def test_the_correction_and_its_variance(self) -> None:
        """A share of .5 has a quarter of the spread of its log odds (the delta method)."""
        value, variance = told(ALPHA, facts())
        self.assertAlmostEqual(value, 0.5)
        self.assertAlmostEqual(variance, (0.4 / 4) ** 2)

    def test_what_a_take_does_not_show_is_not_told(self) -> None:
        bare = facts(figures=None, place_ms=None)
        self.assertEqual({one.told(bare) for one in (*BY_WEEK, SPREAD)}, {None})
        silent = facts(figures=figures(heard=Place(0, None, None, None, None)), place_ms=None)
        self.assertIsNone(PLACE.told(silent))
        self.assertIsNone(SPREAD.told(silent))

    def test_the_fields_that_are_needed_each_once(self) -> None:
        self.assertEqual(needed((CLOCK, HAND, LEAN)), ("sizes", "tendency"))

    def test_over_takes_it_is_told_from_the_fewest_on_and_wider_where_it_says_so(self) -> None:
        some = [facts(day) for day in range(4)]
        self.assertIsNone(pooled(LEAN, some, fewest=5))
        found = pooled(LEAN, some, fewest=4)
        plain = pooled(replace(LEAN, wider=1.0), some, fewest=4)
        self.assertEqual((found.takes, found.value), (4, plain.value))
        low, high = (
            (end - found.value) / (bare - found.value) for end, bare in zip(found.ci95, plain.ci95, strict=True)
        )
        self.assertAlmostEqual(low, LEAN.wider)
        self.assertAlmostEqual(high, LEAN.wider)

    def test_a_size_is_shown_as_itself(self) -> None:
        found = pooled(HAND, [facts(day) for day in range(3)], fewest=3)
        self.assertAlmostEqual(found.value, 5.0)
        self.assertTrue(0 < found.ci95[0] < 5.0 < found.ci95[1])
