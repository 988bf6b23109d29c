"""Two takes side by side: what differs by more than chance."""

from dataclasses import replace
from math import exp, hypot, log
from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.figures.tendency import Tendency
from giusto.figures.variability import Variability
from giusto.practice.comparison import compare
from giusto.simulation.player import SimulatedPlayer
from tests.giusto.practice.over_takes import FIGURES
from tests.giusto.takes import taken


class ComparisonTests(TestCase):
    def test_more_than_chance(self) -> None:
        before, after = taken(SimulatedPlayer(bias_percent=-3.0)), taken(SimulatedPlayer(bias_percent=2.0), seed=2)
        found = {line.figure: line for line in compare(before, after)}
        self.assertEqual(set(found), {"tempo", "place", "spread", "clock", "hand", "correction"})
        self.assertTrue(found["tempo"].more_than_chance)
        self.assertTrue(found["tempo"].ci95[0] < 5.0 < found["tempo"].ci95[1])

    def test_like_takes_differ_by_chance_only(self) -> None:
        first = taken(SimulatedPlayer(), seed=0)
        judged = [
            line.more_than_chance
            for seed in range(1, 21)
            for line in compare(first, taken(SimulatedPlayer(), seed=seed))
        ]
        self.assertLessEqual(np.mean(judged), 0.12)

    def test_ranges_of_differences_and_ratios_by_hand(self) -> None:
        """Ends that are not alike: the lower end of a difference comes of the lower one after and the upper one before.

        Independent errors add as the sides of a right angle do; of sizes, their logs.
        """
        before = replace(
            FIGURES,
            tendency=Tendency(-1.0, (-1.4, -0.9), 4, "dragging"),  # type: ignore[arg-type]
            variability=Variability(14.0, 4.0, 5.0, 4.0, (3.0, 6.0), (4.0, 6.0)),
        )
        after = replace(
            FIGURES,
            tendency=Tendency(1.0, (0.7, 1.8), 4, "rushing"),  # type: ignore[arg-type]
            variability=Variability(14.0, 8.0, 5.0, 4.0, (6.0, 10.0), (4.0, 6.0)),
        )
        found = {line.figure: line for line in compare(before, after)}
        tempo, clock, hand = found["tempo"], found["clock"], found["hand"]
        self.assertEqual((tempo.change, tempo.more_than_chance), (2.0, True))
        assert_allclose(tempo.ci95, (2 - hypot(0.3, 0.1), 2 + hypot(0.8, 0.4)), atol=0.001)
        self.assertEqual((tempo.before, tempo.after, clock.before, clock.after), (-1.0, 1.0, 4.0, 8.0))
        self.assertEqual(clock.change, 2.0)  # twice the clock
        low = exp(log(2) - hypot(log(8 / 6), log(6 / 4)))
        high = exp(log(2) + hypot(log(10 / 8), log(4 / 3)))
        assert_allclose(clock.ci95, (low, high), atol=0.002)
        self.assertTrue(clock.more_than_chance)
        self.assertEqual((hand.change, hand.more_than_chance), (1.0, False))

    def test_what_one_take_lacks_is_left_out(self) -> None:
        with_click, silent = taken(SimulatedPlayer(), silence=None, cycles=4), taken(SimulatedPlayer())
        self.assertEqual({line.figure for line in compare(with_click, silent)} & {"tempo", "clock", "hand"}, set())
