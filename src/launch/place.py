"""Where things lie, and how a failure is told."""

from __future__ import annotations

import fcntl
import os
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, NoReturn

ROOT = Path(__file__).resolve().parents[2]
# What a checkout makes for itself; git ignores it. A drill of ours has a folder of its own.
OWN = Path(os.environ.get("GIUSTO_OWN") or ROOT / ".giusto").resolve()
LOG = OWN / "log"
LARGE_LOG = 10_000_000  # bytes; ours


def say(line: str) -> None:
    """Tell the person at the terminal one thing."""
    print(f"giusto: {line}", file=sys.stderr, flush=True)


def fail(line: str) -> NoReturn:
    """Say why it can't go on, and stop."""
    say(line)
    sys.exit(1)


@contextmanager
def held(path: Path, waiting: str) -> Iterator[None]:
    """Hold a lock; say why it takes long where somebody else does."""
    with path.open("a", encoding="ascii") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            say(waiting)
            fcntl.flock(lock, fcntl.LOCK_EX)
        yield


@contextmanager
def log_of(name: str) -> Iterator[IO[bytes]]:
    """Open a log to be written on, for its owner's eyes; a large one begins anew, and is kept once."""
    LOG.mkdir(parents=True, exist_ok=True)
    path = LOG / f"{name}.log"
    if path.exists() and path.stat().st_size > LARGE_LOG:
        path.replace(path.with_suffix(".log.1"))
    path.touch(mode=0o600)
    path.chmod(0o600)
    with path.open("ab") as log:
        yield log


def write_whole(path: Path, text: str) -> None:
    """Write a file for its owner's eyes, beside its place and moved there: half a one is never read."""
    beside = path.with_name(f"{path.name}.new")
    beside.unlink(missing_ok=True)
    beside.touch(mode=0o600)
    with beside.open("w", encoding="ascii") as file:
        file.write(text)
        file.flush()
        os.fsync(file.fileno())
    beside.replace(path)


def end_process(pid: int, signal_number: int, *, seconds: float = 30.0) -> None:
    """Ask a process that is no child of ours to end, and wait until it has."""
    os.kill(pid, signal_number)
    deadline = time.monotonic() + seconds
    while _runs(pid) and time.monotonic() < deadline:
        time.sleep(0.1)


def _runs(pid: int) -> bool:
    """Say whether a process still runs: one whose parent has not asked for its end yet, a zombie, does not."""
    try:
        state = Path(f"/proc/{pid}/stat").read_text(encoding="utf-8", errors="replace").rpartition(")")[2].split()[0]
    except (OSError, IndexError):
        return False
    return state != "Z"
