"""A player's clock over takes, what takes show on either side, and the leans of their silences."""

from math import log
from unittest import TestCase
from uuid import UUID

import numpy as np

from giusto.figures.variability import Variability
from giusto.practice.over_takes.clock import ALONE, PULLED, clock_of, walk_of
from giusto.practice.over_takes.leans import leans_by_take
from giusto.practice.over_takes.sides import sides_of
from giusto.timekeeper.prior import LEAST_SD, WEAK, Seen, told_by
from tests.giusto.practice.over_takes import facts, figures, silence


def seen(share: float, sd: float = 0.1) -> Seen:
    return Seen((log(share), log(6.0), 0.0), (sd, 0.2, 0.5))


class ClockTests(TestCase):
    def test_takes_that_agree(self) -> None:
        found = clock_of([(2, seen(0.02))] * 6)
        assert found
        self.assertEqual(found.slots, 2)
        self.assertAlmostEqual(found.share, 0.02, delta=0.0002)
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

    def test_many_takes_are_as_sure_as_what_they_all_share(self) -> None:
        """Two hundred takes of .06 each leave what a hand pulls all by, and by how much a clock alone may differ."""
        many = clock_of([(2, seen(0.02, sd=0.06))] * 200)
        assert many
        shared = (ALONE**2 + (PULLED * 0.06**2) ** 2) ** 0.5
        self.assertAlmostEqual(log(many.ci95[1] / many.ci95[0]) / 2, 1.96 * shared, delta=0.02)
        loose = clock_of([(2, seen(0.02, sd=0.5))] * 200)
        assert loose
        variance = 1 / (0.5**-2 - WEAK.spread[0] ** -2)
        self.assertGreater(log(loose.ci95[1] / loose.ci95[0]) / 2, 1.96 * PULLED * variance)

    def test_the_weak_prior_counts_once_however_many_takes_there_are(self) -> None:
        """Forty takes of a clock of .8 %, each of which tells little: by itself, with the prior, each says more."""
        true, prior, error = log(0.008), float(WEAK.spread[0]) ** -2, 0.5
        told = error**-2
        middle = (told * true + prior * float(WEAK.centre[0])) / (told + prior)
        one = Seen((middle, log(6.0), 0.0), ((told + prior) ** -0.5, 0.2, 0.5))
        own = told_by(one, 0)
        assert own
        np.testing.assert_allclose(own, (true, error**2))
        found = clock_of([(2, one)] * 40)
        assert found
        self.assertAlmostEqual(log(found.share), true, delta=0.03)
        self.assertGreater(middle - true, 0.2)  # what one take says, and what forty of it said before

    def test_a_take_that_tells_nothing_leaves_what_is_known_of_players(self) -> None:
        nothing = Seen((float(WEAK.centre[0]), log(6.0), 0.0), (float(WEAK.spread[0]), 0.2, 0.5))
        self.assertIsNone(told_by(nothing, 0))
        found = clock_of([(2, nothing)] * 40)
        assert found
        self.assertAlmostEqual(log(found.share), float(WEAK.centre[0]), delta=1e-6)

    def test_the_walk_of_a_beat_adds_up_the_steps_in_it(self) -> None:
        """Four steps of 2 % of a quarter of a beat each: 2 % over the root of four."""
        found = walk_of([(4, seen(0.02, sd=0.06))] * 50)
        assert found
        self.assertAlmostEqual(found.beats, 0.01, delta=0.0001)
        self.assertAlmostEqual(found.log_sd, ALONE, delta=0.02)
        self.assertIsNone(walk_of([]))

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
