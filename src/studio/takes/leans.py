"""What silences show of the tempo alone, brought to what the core pools over takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from typing import Any
from uuid import UUID

import numpy as np

from giusto.arrays import FloatArray
from giusto.ranges import sd_of


def leans_by_take(silences: Iterable[Any]) -> list[tuple[FloatArray, FloatArray]]:
    """Return the leans of silences (rows of them, or named tuples) in percent, and their variances, take by take."""
    found: defaultdict[UUID, list[tuple[float, float]]] = defaultdict(list)
    for row in silences:
        ends = (row.lean_low_percent or 0.0, row.lean_high_percent or 0.0)
        found[row.take_id].append((row.lean_percent or 0.0, sd_of(ends) ** 2))
    return [(np.array([p for p, _ in pairs]), np.array([v for _, v in pairs])) for pairs in found.values()]
