"""Where things lie, and how a failure is told."""

from __future__ import annotations

import sys
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
