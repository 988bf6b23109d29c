"""The thread of a take as JSON, for drawing: tenths of a millisecond, null where no note was caught."""

from __future__ import annotations

from typing import Any

import numpy as np

from giusto.reading import Thread


def thread_json(thread: Thread) -> dict[str, list[Any]]:
    """Return a thread as what JSON takes, in tenths of a millisecond."""
    return {
        "tick": thread.tick.tolist(),
        "clock_ms": np.round(thread.clock_ms, 1).tolist(),
        "half_ms": np.round(thread.half_ms, 1).tolist(),
        "note_ms": [None if np.isnan(ms) else round(ms, 1) for ms in thread.note_ms.tolist()],
    }


def thread_of(plain: dict[str, list[Any]]) -> Thread:
    """Return the thread that ``thread_json`` made this of."""
    clock_ms, half_ms = (np.array(plain[name], dtype=np.float64) for name in ("clock_ms", "half_ms"))
    note_ms = np.array([np.nan if ms is None else ms for ms in plain["note_ms"]], dtype=np.float64)
    return Thread(np.array(plain["tick"], dtype=np.int64), clock_ms, half_ms, note_ms)
