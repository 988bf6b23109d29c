"""What silences show of the tempo alone, take by take, as it is pooled over takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from uuid import UUID

import numpy as np

from giusto.arrays import FloatArray
from giusto.practice.over_takes.facts import SilenceFacts
from giusto.ranges import sd_of


def leans_by_take(silences: Iterable[SilenceFacts]) -> list[tuple[FloatArray, FloatArray]]:
    """Return the leans of silences in percent, and their variances, take by take.

    Returns
    -------
    list of (array, array), each of shape (silences,)
        Silences whose lean is not known are left out, and takes with none.
    """
    found: defaultdict[UUID, list[tuple[float, float]]] = defaultdict(list)
    for one in silences:
        if one.lean_percent is not None and one.lean_ci95_percent is not None:
            found[one.take].append((one.lean_percent, sd_of(one.lean_ci95_percent) ** 2))
    return [(np.array([p for p, _ in pairs]), np.array([v for _, v in pairs])) for pairs in found.values()]
