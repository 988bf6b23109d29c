"""Where a process of the site's works with files: a folder of its own, which goes with it, however it ends."""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path


def own_spool() -> None:
    """Work with files in a folder of this process's own below the site's; delete those of processes that are gone."""
    run = os.environ.get("GIUSTO_RUN")
    if not run:  # a command by itself, a test: the system's folder will do
        return
    spools = Path(run) / "spool"
    mine = spools / str(os.getpid())
    mine.mkdir(mode=0o700, parents=True, exist_ok=True)
    tempfile.tempdir = str(mine)
    for other in spools.iterdir():
        if other.name.isdecimal() and not Path("/proc", other.name).exists():
            shutil.rmtree(other, ignore_errors=True)
