"""What earlier takes let expect of the next one: how large a player's noise is, and how far takes lean apart."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from giusto.arrays import FloatArray
from giusto.figures.tendency import takes_differ
from giusto.ranges import sd_of
from giusto.reading.analyse import Analysis
from giusto.reading.format import Reading
from giusto.timekeeper.prior import Prior, prior_from


def prior_of(earlier: Sequence[Analysis]) -> Prior:
    """Return what a player's earlier takes, near the tempo and by the same hand, let expect of the next."""
    seen = [take.sizes for take in earlier if take.sizes]
    return prior_from(seen, takes_differ_percent=takes_differ([leans_of(take.reading) for take in earlier]))


def leans_of(reading: Reading) -> tuple[FloatArray, FloatArray]:
    """Return the leans of a take's silences in percent, and their variances."""
    read = [(silence.lean_percent, silence.lean_ci95_percent) for silence in reading.silences]
    pairs = [(lean, sd_of(ends) ** 2) for lean, ends in read if lean is not None and ends]
    return np.array([lean for lean, _ in pairs]), np.array([variance for _, variance in pairs])
