"""Two takes side by side: what differs by more than chance."""

from unittest import TestCase

import numpy as np

from giusto.practice.comparison import compare
from giusto.simulation.player import SimulatedPlayer
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

    def test_what_one_take_lacks_is_left_out(self) -> None:
        with_click, silent = taken(SimulatedPlayer(), silence=None, cycles=4), taken(SimulatedPlayer())
        self.assertEqual({line.figure for line in compare(with_click, silent)} & {"tempo", "clock", "hand"}, set())
