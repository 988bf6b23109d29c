"""A player's clock over takes, what takes show on either side, and the leans of their silences."""

from math import log
from unittest import TestCase
from uuid import UUID

import numpy as np

from giusto.figures.variability import Variability
from giusto.practice.over_takes.clock import ALL_OFF, LEAST_SD, SPREAD_OF_CLOCKS, clock_of
from giusto.practice.over_takes.leans import leans_by_take
from giusto.practice.over_takes.sides import sides_of
from giusto.timekeeper.prior import Seen
from tests.giusto.practice.over_takes import facts, figures, silence


def seen(share: float, sd: float = 0.1) -> Seen:
    return Seen((log(share), log(6.0), 0.0), (sd, 0.2, 0.5))


class ClockTests(TestCase):
    def test_takes_that_agree(self) -> None:
        found = clock_of([(2, seen(0.02))] * 6)
        assert found
        self.assertEqual(found.slots, 2)
        self.assertAlmostEqual(found.share, 0.02, places=9)
        self.assertTrue(found.ci95[0] < 0.02 < found.ci95[1])

    def test_the_usual_notes_to_the_beat_speak(self) -> None:
        found = clock_of([(4, seen(0.05)), (2, seen(0.02)), (2, seen(0.02))])
        assert found
        self.assertEqual(found.slots, 2)
        self.assertAlmostEqual(found.share, 0.02, delta=0.001)

    def test_a_take_that_tells_more_counts_for_more(self) -> None:
        found = clock_of([(2, seen(0.02, sd=0.06)), (2, seen(0.04, sd=1.5))])
        assert found
        self.assertLess(found.share, 0.0225)
        narrow, wide = (clock_of([(2, seen(0.02, sd=sd))] * 4) for sd in (0.1, 1.0))
        assert narrow
        assert wide
        self.assertLess(narrow.ci95[1] / narrow.ci95[0], wide.ci95[1] / wide.ci95[0])

    def test_one_take_is_as_wide_as_itself_and_what_takes_differ_by(self) -> None:
        """Variances add: .4² of the take, .25² of players' takes, .15² of the hand; ± 1.96 of their root, or nearly."""
        found = clock_of([(2, seen(0.02, sd=0.4))])
        assert found
        half = log(found.ci95[1] / found.ci95[0]) / 2
        self.assertAlmostEqual(half, 1.96 * (0.4**2 + SPREAD_OF_CLOCKS**2 + ALL_OFF**2) ** 0.5, delta=0.03)
        many = clock_of([(2, seen(0.02, sd=0.06))] * 200)  # no number of takes tells the last of these
        assert many
        self.assertAlmostEqual(log(many.ci95[1] / many.ci95[0]) / 2, 1.96 * ALL_OFF, delta=0.02)

    def test_nothing_is_known_better_than_a_take_can_tell(self) -> None:
        exact, least = (clock_of([(2, seen(0.02, sd=sd)), (2, seen(0.021, sd=0.3))]) for sd in (1e-9, LEAST_SD))
        self.assertEqual(exact, least)

    def test_no_take_tells(self) -> None:
        self.assertIsNone(clock_of([]))


class SidesTests(TestCase):
    def test_both_sides_in_percent_of_a_slot(self) -> None:
        found = sides_of(facts(), 40)
        slot_ms = 60_000 / 96 / 2
        assert found.with_click
        assert found.alone
        self.assertAlmostEqual(found.with_click.spread_percent, 100 * 12.0 / slot_ms)
        self.assertAlmostEqual(found.alone.spread_percent, 100 * 14.0 / slot_ms)
        self.assertEqual((found.with_click.n, found.alone.n, len(found.there)), (40, 40, 2))
        self.assertEqual((found.with_click.is_alone, found.alone.is_alone), (False, True))

    def test_few_intervals_are_no_side(self) -> None:
        found = sides_of(facts(), 23)
        self.assertIsNone(found.alone)
        self.assertIsNotNone(sides_of(facts(), 24).alone)
        self.assertEqual(sides_of(facts(figures=None), 50).there, [])
        self.assertEqual(len(sides_of(facts(figures=figures(variability=None)), 50).there), 1)

    def test_variability_is_of_the_intervals(self) -> None:
        wide = figures(variability=Variability(28.0, 6.0, 5.0, 4.0))
        one, other = sides_of(facts(figures=wide), 40).alone, sides_of(facts(), 40).alone
        assert one
        assert other
        self.assertAlmostEqual(one.spread_percent, 2 * other.spread_percent)


class LeansTests(TestCase):
    def test_take_by_take_and_only_where_known(self) -> None:
        first, second = UUID(int=1), UUID(int=2)
        some = [
            silence(take=first, lean_percent=-1.0),
            silence(take=second, lean_percent=0.5),
            silence(take=first, lean_percent=None, lean_ci95_percent=None),
            silence(take=first, lean_percent=None),
            silence(take=first, lean_ci95_percent=None),
            silence(take=first, lean_percent=-2.0),
        ]
        found = leans_by_take(some)
        np.testing.assert_array_equal(found[0][0], [-1.0, -2.0])
        np.testing.assert_array_equal(found[1][0], [0.5])
        np.testing.assert_allclose(found[1][1], [(0.5 / 1.959964) ** 2], rtol=1e-5, atol=0)
