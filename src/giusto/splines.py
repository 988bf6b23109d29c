"""A smooth curve through a few points."""

from __future__ import annotations

import numpy as np

from giusto.arrays import FloatArray


def natural_spline(x: FloatArray, y: FloatArray, at: FloatArray) -> FloatArray:
    """Return the natural cubic spline through points, and beyond them as its outer parts go on.

    Parameters
    ----------
    x, y : array of float, shape (n,)
        At least three points, x ascending.
    at : array of float, shape (m,)

    Returns
    -------
    array of float, shape (m,)

    Notes
    -----
    As ``scipy.interpolate.CubicSpline(x, y, bc_type="natural")``, whose module takes a reading's time to be imported.
    """
    h = np.diff(x)
    bend = np.zeros(x.size)  # second derivatives; none at the ends
    system = np.diag((h[:-1] + h[1:]) / 3) + np.diag(h[1:-1] / 6, 1) + np.diag(h[1:-1] / 6, -1)
    bend[1:-1] = np.linalg.solve(system, np.diff(np.diff(y) / h))
    part = np.clip(np.searchsorted(x, at) - 1, 0, x.size - 2)
    left, right, width = at - x[part], x[part + 1] - at, h[part]
    straight = (y[part] * right + y[part + 1] * left) / width
    cubic = bend[part] * (right**3 / width - width * right) + bend[part + 1] * (left**3 / width - width * left)
    curve: FloatArray = straight + cubic / 6
    return curve
