"""The search for the likeliest sizes, several costs at once, against scipy's; the likelihoods of many sizes at once."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from scipy.optimize import minimize, rosen

from giusto.simulation.player import SimulatedPlayer, simulate
from giusto.timekeeper.mode import find_mode, find_modes
from giusto.timekeeper.solution import likelihoods_of
from giusto.timekeeper.take import Sizes
from tests.drills import fixed, planned
from tests.giusto.timekeeper.test_solution import dense, true_chain

FAR = np.array([-5.0, -5.0]), np.array([5.0, 5.0])


def valley(points: np.ndarray) -> np.ndarray:
    """Rosenbrock's bent valley, as many costs as there are points."""
    return np.apply_along_axis(rosen, -1, points)


class ModeTests(TestCase):
    def test_a_bowl_is_found_at_once_with_its_axes(self) -> None:
        found = find_mode(lambda x: 2 * x[:, 0] ** 2 + 0.5 * (x[:, 1] - 1) ** 2, np.array([0.4, 0.7]), *FAR)
        self.assertTrue(found.found)
        assert_allclose(found.at, [0.0, 1.0], atol=1e-6)
        assert_allclose(found.sd, [0.5, 1.0], rtol=1e-4)  # 1 over the root of the curvature
        self.assertAlmostEqual(found.cost, 0.0, places=9)

    def test_a_bent_valley_is_followed_as_far_as_scipy_goes(self) -> None:
        starts = np.array([[-1.2, 1.0], [2.0, 2.0], [0.0, -1.0]])
        for start, found in zip(starts, find_modes(valley, starts, *FAR), strict=True):
            with self.subTest(start=start.tolist()):
                self.assertTrue(found.found)
                self.assertLess(found.cost, minimize(rosen, start).fun + 0.05)  # the slope left is a thirtieth

    def test_it_stops_at_a_corner(self) -> None:
        found = find_mode(lambda x: x[:, 0] + x[:, 1], np.zeros(2), *FAR)
        self.assertTrue(found.found)
        assert_allclose(found.at, [-5.0, -5.0])

    def test_what_has_no_end_in_thirty_steps_is_not_found(self) -> None:
        found = find_mode(lambda x: 10 * x[:, 0], np.zeros(2), np.full(2, -1e9), np.full(2, 1e9))
        self.assertFalse(found.found)


class LikelihoodTests(TestCase):
    def test_many_sizes_at_once_are_each_what_the_plain_dense_version_says(self) -> None:
        """Differences of log likelihoods: the whole precision matrix of each, inverted."""
        sizes = [Sizes(0.01, 6.0, 0.3), Sizes(0.03, 15.0, 0.6), Sizes(0.02, 9.0, 0.05)]
        for changes in (dict(silence=fixed(2, 2), cycles=8), dict(silence=None, cycles=6)):
            plan = planned(grid=2, **changes)
            take = simulate(plan, SimulatedPlayer(missed=0.1), seed=4)
            _, chain = true_chain(plan, take)
            each = [likelihoods_of(chain)([one])[0] for one in sizes]
            with self.subTest(**changes):
                assert_allclose(likelihoods_of(chain)(sizes), each, rtol=0, atol=1e-8)
                assert_allclose(each, [dense(chain, one)["log_likelihood"] for one in sizes], rtol=0, atol=1e-3)
