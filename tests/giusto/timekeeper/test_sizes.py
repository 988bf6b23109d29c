"""The likely sizes of a take: points that stand for all of them, and what the take says by itself."""

import json
from dataclasses import asdict
from unittest import TestCase

import numpy as np

from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from giusto.timekeeper.prior import WEAK, prior_from, seen_from
from giusto.timekeeper.sizes import likely_sizes, sizes_of
from tests.drills import fixed, planned
from tests.giusto.takes import silent_chain


class SeenTests(TestCase):
    """What a take showed, back from what was kept of it."""

    def test_what_was_kept_comes_back(self) -> None:
        seen = analyse(planned(), planned().seconds(planned().notes.tick)).sizes
        assert seen
        self.assertEqual(seen_from(json.loads(json.dumps(asdict(seen)))), seen)

    def test_what_no_take_can_have_shown_is_nothing(self) -> None:
        fine = {"free": [-4.0, 2.0, 0.0], "free_sd": [0.3, 0.2, 0.8]}
        self.assertIsNotNone(seen_from(fine))
        for odd in (
            None,
            [],
            {},
            "x",
            {"free": "x", "free_sd": [0.3, 0.2, 0.8]},
            fine | {"free": [-4.0, 2.0]},
            fine | {"free": [-4.0, 2.0, "nan"]},
            fine | {"free": [10**400, 2.0, 0.0]},
            fine | {"free": [1e300, 2.0, 0.0]},
            fine | {"free_sd": [0.0, 0.2, 0.8]},
            fine | {"free_sd": [0.3, -0.2, 0.8]},
            fine | {"free_sd": [0.3, 0.2, 1e9]},
        ):
            with self.subTest(odd):
                self.assertIsNone(seen_from(odd))


class SizesTests(TestCase):
    def test_unknowns_and_sizes_by_hand(self) -> None:
        found = sizes_of(np.array([np.log(0.02), np.log(6.0), 0.0]))
        self.assertAlmostEqual(found.clock, 0.02)
        self.assertAlmostEqual(found.hand_ms, 6.0)
        self.assertAlmostEqual(found.alpha, 0.5)

    def test_eight_points_stand_for_all_and_weigh_one_together(self) -> None:
        clocks, hands = [], []
        for seed in range(6):
            rng = np.random.default_rng(seed)
            error_ms = np.cumsum(rng.normal(0, 5, 200)) + rng.normal(0, 8, 200)
            found = likely_sizes(silent_chain(error_ms, 500.0), WEAK)
            self.assertTrue(found.found)
            self.assertEqual((len(found.solutions), found.weights.shape), (8, (8,)))
            self.assertAlmostEqual(float(found.weights.sum()), 1.0)
            clocks.append(500.0 * found.mode.clock)
            hands.append(found.mode.hand_ms)
        self.assertAlmostEqual(float(np.mean(clocks)) / 5, 1, delta=0.25)
        self.assertAlmostEqual(float(np.mean(hands)) / 8, 1, delta=0.15)

    def test_what_a_take_shows_is_not_pulled_by_what_was_known_of_the_player(self) -> None:
        """Read by what a player twice as steady lets expect: what the take says by itself hardly moves."""
        plan = planned(bpm=90, silence=fixed(2, 2), cycles=32)
        onsets_s = simulate(plan, SimulatedPlayer(clock_percent=2.0, hand_ms=10, alpha=0.4), seed=3).onsets_s
        other = SimulatedPlayer(clock_percent=1.0, hand_ms=5, alpha=0.4)
        earlier = [analyse(plan, simulate(plan, other, seed=seed).onsets_s).sizes for seed in range(6)]
        weak = analyse(plan, onsets_s).sizes
        pulled = analyse(plan, onsets_s, prior=prior_from([one for one in earlier if one])).sizes
        assert weak
        assert pulled
        for k in (0, 1):
            self.assertAlmostEqual(pulled.free[k], weak.free[k], delta=weak.free_sd[k])
