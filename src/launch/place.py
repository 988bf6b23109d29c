"""Where things lie, and how a failure is told."""

from __future__ import annotations

import os
import sys
import time
from pathlib import Path
from typing import NoReturn

ROOT = Path(__file__).resolve().parents[2]
OWN = ROOT / ".giusto"  # what a checkout makes for itself; git ignores it
LOG = OWN / "log"


def say(line: str) -> None:
    """Tell the person at the terminal one thing."""
    print(f"giusto: {line}", file=sys.stderr, flush=True)


def fail(line: str) -> NoReturn:
    """Say why it can't go on, and stop."""
    say(line)
    sys.exit(1)


def end_process(pid: int, signal_number: int, *, seconds: float = 30.0) -> None:
    """Ask a process that is no child of ours to end, and wait until it has."""
    os.kill(pid, signal_number)
    deadline = time.monotonic() + seconds
    while Path(f"/proc/{pid}").exists() and time.monotonic() < deadline:
        time.sleep(0.1)
