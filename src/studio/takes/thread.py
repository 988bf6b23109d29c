"""The thread of a take as JSON, for drawing: tenths of a millisecond, null where no note was caught."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from giusto.reading import Thread
from studio.sheet.plumb import seen

SKETCHED = 40  # ours: points of a small picture
EXTENT_MS = 100.0  # what half the width of a small picture stands for, unless more is needed


def thread_json(thread: Thread) -> dict[str, list[Any]]:
    """Return a thread as what JSON takes, in tenths of a millisecond."""
    return {
        "tick": thread.tick.tolist(),
        "clock_ms": np.round(thread.clock_ms, 1).tolist(),
        "half_ms": np.round(thread.half_ms, 1).tolist(),
        "note_ms": [None if np.isnan(ms) else round(ms, 1) for ms in thread.note_ms.tolist()],
    }


def sketch_of(thread: Thread) -> list[float]:
    """Return a thread's clock in a few points, in ms, from the first caught note to the last."""
    first, last = seen(thread)
    clock_ms = thread.clock_ms[first : last + 1]
    found: list[float] = np.round(clock_ms[:: max(1, clock_ms.size // SKETCHED)], 1).tolist()
    return found


def path_of(sketch: Sequence[float], *, width: float, height: float) -> str:
    """Return a sketch as an SVG path: down the picture, early left, late right."""
    extent = max(EXTENT_MS, *(abs(ms) for ms in sketch))
    points = [
        f"{width / 2 + ms / extent * width / 2:.1f} {2 + (height - 4) * k / max(len(sketch) - 1, 1):.1f}"
        for k, ms in enumerate(sketch)
    ]
    return "M" + "L".join(points)


def thread_of(plain: dict[str, list[Any]]) -> Thread:
    """Return the thread that ``thread_json`` made this of."""
    clock_ms, half_ms = (np.array(plain[name], dtype=np.float64) for name in ("clock_ms", "half_ms"))
    note_ms = np.array([np.nan if ms is None else ms for ms in plain["note_ms"]], dtype=np.float64)
    return Thread(np.array(plain["tick"], dtype=np.int64), clock_ms, half_ms, note_ms)
