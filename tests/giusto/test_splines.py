"""A curve through points: against scipy's."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from scipy.interpolate import CubicSpline

from giusto.splines import natural_spline


class SplineTests(TestCase):
    def test_scipy_says_the_same_within_and_beyond(self) -> None:
        rng = np.random.default_rng(5)
        for n in (3, 7, 20):
            x, y = np.cumsum(rng.uniform(0.2, 2.0, n)), rng.normal(size=n)
            at = np.linspace(x[0] - 1, x[-1] + 1, 201)
            with self.subTest(n):
                assert_allclose(natural_spline(x, y, at), CubicSpline(x, y, bc_type="natural")(at), atol=1e-10)

    def test_it_goes_through_its_points(self) -> None:
        x, y = np.array([0.0, 1.0, 3.0]), np.array([2.0, -1.0, 4.0])
        assert_allclose(natural_spline(x, y, x), y, atol=1e-12)
