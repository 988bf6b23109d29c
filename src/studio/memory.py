"""How much memory this process holds, and what of it is there for good."""

import gc
import os
from pathlib import Path

from django.urls import get_resolver


def keep_what_is_loaded() -> None:
    """Load all views, and leave what is loaded by now out of the collector's rounds: each would look through all of it.

    Without, one page in twenty of those that make many objects takes twice its time.
    """
    _ = get_resolver().url_patterns
    gc.collect()
    gc.freeze()


def resident_mb() -> float:
    """Return it in MB, shared pages included."""
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6
