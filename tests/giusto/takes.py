"""Takes that tests of the core read."""

import numpy as np

from giusto.reading import Reading, analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from giusto.timekeeper.take import Chain
from tests.drills import planned


def taken(player: SimulatedPlayer, *, seed: int = 1, **changes) -> Reading:  # type: ignore[no-untyped-def]
    """Return the reading of a simulated take of a drill of ``tests.drills``."""
    plan = planned(**changes)
    return analyse(plan, simulate(plan, player, seed=seed).onsets_s).reading


def silent_chain(error_ms: np.ndarray, interval_ms: float) -> Chain:
    """Return one long silence."""
    n = error_ms.size
    return Chain(
        error_ms=error_ms,
        interval_ms=np.full(n - 1, interval_ms),
        clicks=np.zeros(n - 1, dtype=int),
        silence=np.zeros(n - 1, dtype=int),
        opened_ms=np.zeros(n - 1),
        on_click=np.zeros(n, dtype=bool),
        in_beat=np.zeros(n, dtype=int),
        ends=np.array([0, n - 1]),
        beat_ms=interval_ms,
    )
