"""What the tests of a process share, and what ends it: with the process, or before its databases go."""

from __future__ import annotations

import multiprocessing
import signal
import sys
from collections.abc import Callable
from multiprocessing.util import Finalize

_ENDS: list[Callable[[], object]] = []


def at_end(end: Callable[[], object]) -> None:
    """End something when all tests of this process are over, the newest first."""
    if not _ENDS and multiprocessing.parent_process():
        Finalize(None, end_all, exitpriority=1)
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(1))  # as a pool that is broken off ends its processes
    _ENDS.append(end)


def end_all() -> None:
    """End all of it."""
    while _ENDS:
        _ENDS.pop()()
