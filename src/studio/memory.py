"""How much memory this process holds."""

import os
from pathlib import Path


def resident_mb() -> float:
    """Return it in MB, shared pages included."""
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6
