"""How the belief about a learner's half moves in a step: by the moments of each way, and what leaves the grid."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from scipy.special import ndtri

from giusto.practice.ladder.chance import GAINS, HALF_STEP, NODES, WANDERS, _drifted, _kernels


class KernelTests(TestCase):
    def test_each_way_moves_by_its_gain_and_wanders_as_a_normal_of_its_nodes(self) -> None:
        """Laid between two steps of the grid, each as near: the mean stays, the variance grows by a quarter of one."""
        kernels = _kernels()
        step = HALF_STEP * (np.arange(kernels.shape[1]) - kernels.shape[1] // 2)
        nodes = ndtri((np.arange(NODES) + 0.5) / NODES)
        ways = [(gain, wander) for gain, _ in GAINS for wander, _ in WANDERS]
        self.assertEqual(len(ways), len(kernels))
        for row, (gain, wander) in zip(kernels, ways, strict=True):
            self.assertTrue(np.all(row >= 0))
            self.assertAlmostEqual(float(row.sum()), 1.0)
            self.assertAlmostEqual(float(row @ step), gain, places=9)
            more = float(row @ step**2) - gain**2 - wander**2 * float(np.mean(nodes**2))
            self.assertTrue(-1e-9 <= more <= HALF_STEP**2 / 4 + 1e-9, more)

    def test_what_would_leave_the_grid_stays_at_its_end(self) -> None:
        ways = len(_kernels())
        for at in (0, 3, 39):
            belief = np.zeros((ways, 2, 40))
            belief[:, :, at] = 0.5
            assert_allclose(_drifted(belief).sum(axis=2), 0.5)
        first = np.zeros((ways, 2, 40))
        first[:, :, 0] = 1.0  # what would fall below is there afterwards, none of it one step up
        inner = np.zeros((ways, 2, 120))
        inner[:, :, 60] = 1.0
        moved = _drifted(inner)
        assert_allclose(_drifted(first)[:, :, 0], moved[:, :, :61].sum(axis=2))
        assert_allclose(_drifted(first)[:, :, 1:20], moved[:, :, 61:80])
        assert_allclose(_drifted(first[:, :, ::-1])[:, :, -1], moved[:, :, 60:].sum(axis=2))
        middle = np.zeros((ways, 1, 400))
        middle[:, :, 200] = 1.0
        moved = _drifted(middle)[:, 0] @ (HALF_STEP * (np.arange(400) - 200))
        assert_allclose(moved, [gain for gain, _ in GAINS for _ in WANDERS], atol=1e-9)
