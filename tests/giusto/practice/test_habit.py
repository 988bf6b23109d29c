"""What a player's takes share, and what earlier ones let expect."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.missing import Missing
from giusto.practice.habit import habit, usual
from giusto.reading import Reading, analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from giusto.timekeeper.prior import WEAK, Seen, prior_from
from tests.drills import planned


class HabitTests(TestCase):
    def test_habit_narrows_and_expectation_does_not(self) -> None:
        rng = np.random.default_rng(5)

        def takes(n: int) -> list[tuple[np.ndarray, np.ndarray]]:
            return [(rng.normal(rng.normal(-1.0, 0.3), 0.4, 4), np.full(4, 0.05)) for _ in range(n)]

        few, many = habit(takes(4)), habit(takes(36))
        assert not isinstance(few, Missing)
        assert not isinstance(many, Missing)
        width = [f.ci95_percent[1] - f.ci95_percent[0] for f in (few, many)]
        self.assertLess(width[1], width[0])
        self.assertEqual(many.verdict, "dragging")
        self.assertGreater(many.expected_percent[1] - many.expected_percent[0], 1.5)
        self.assertEqual(habit(takes(2)), Missing("habit", "few-takes", 2, 3))

    def test_what_is_expected_of_the_next_silence_by_hand(self) -> None:
        """Forty takes at −1 %, read to .2: 95 in 100 within 1.96 times that, and what takes might differ by."""
        found = habit([(np.full(30, -1.0), np.full(30, 0.04)) for _ in range(40)])
        assert not isinstance(found, Missing)
        low, high = found.expected_percent
        self.assertAlmostEqual((low + high) / 2, -1.0, places=2)
        self.assertAlmostEqual((high - low) / 2, 1.96 * 0.2, delta=0.06)
        self.assertEqual((found.takes, found.silences), (40, 1200))
        differ = habit([(np.full(30, -1.0 + 0.5 * (-1) ** k), np.full(30, 0.04)) for k in range(40)])
        assert not isinstance(differ, Missing)
        wide = (differ.expected_percent[1] - differ.expected_percent[0]) / 2
        self.assertAlmostEqual(wide, 1.96 * (0.04 + 0.5**2) ** 0.5, delta=0.1)  # the variances of both add
        self.assertAlmostEqual(differ.differ_percent, 0.5, delta=0.06)
        self.assertLess(found.differ_percent, 0.05)
        scattered = habit([(-1.0 + 0.5 * (-1.0) ** np.arange(30), np.full(30, 0.04)) for _ in range(40)])
        assert not isinstance(scattered, Missing)
        wide = (scattered.expected_percent[1] - scattered.expected_percent[0]) / 2
        self.assertAlmostEqual(wide, 1.96 * 0.5, delta=0.12)  # what was read is within what a take's silences differ by

    def test_takes_without_silences_are_no_takes(self) -> None:
        none, some = (np.zeros(0), np.zeros(0)), (np.full(4, -1.0), np.full(4, 0.05))
        self.assertEqual(habit([some, none, some]), Missing("habit", "few-takes", 2, 3))
        self.assertEqual(habit([some, none, some, some]), habit([some, some, some]))

    def test_usual(self) -> None:
        """10 to 14: mean 12, SD √2.5; Student's t of four degrees 2.776 (table), for one value more."""
        self.assertIsNone(usual([1.0, 2.0]))
        found = usual([10.0, 11.0, 12.0, 13.0, 14.0])
        assert found is not None
        self.assertEqual((found.middle, found.n), (12.0, 5))
        half = 2.776 * 2.5**0.5 * (1 + 1 / 5) ** 0.5
        assert_allclose(found.expected, (12 - half, 12 + half), atol=0.01)
        skewed = usual([1.0, 1.0, 1.0, 9.0])
        assert skewed is not None
        self.assertEqual((skewed.middle, round(sum(skewed.expected) / 2, 6)), (1.0, 3.0))

    def test_earlier_takes_make_the_prior(self) -> None:
        self.assertIs(prior_from([]), WEAK)
        seen = Seen((np.log(0.012), np.log(5.0), 0.0), (0.1, 0.1, 0.3))
        known = prior_from([seen] * 10)
        assert_allclose(known.centre[:2], seen.free[:2], rtol=0, atol=0.1)
        self.assertTrue(np.all(known.spread <= WEAK.spread))
        self.assertTrue(np.all(known.spread >= 0.12))

    def test_a_take_with_a_history_is_read_no_wider(self) -> None:
        plan = planned(cycles=8)
        player = SimulatedPlayer(clock_percent=1.0, hand_ms=5.0)
        earlier = [analyse(plan, simulate(plan, player, seed=s).onsets_s).sizes for s in range(8)]
        onsets = simulate(plan, player, seed=99).onsets_s
        weak, known = (
            analyse(plan, onsets).reading,
            analyse(plan, onsets, prior=prior_from([s for s in earlier if s])).reading,
        )

        def width(reading: Reading) -> float:
            return float(np.mean([np.ptp(s.ci95_ms) for s in reading.silences if s.ci95_ms]))

        self.assertLess(width(known), 1.02 * width(weak))
