"""The worker: hears recordings and reads long takes behind the pages, from the queue in the database."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys

from launch.place import OWN, ROOT, log_of
from launch.web import unprivileged_user

RECORDINGS = OWN / "recordings"
PATIENCE_S = 5


class Worker:
    """The process that works through the queue; started again when it dies, it takes up what was left."""

    def __init__(self, environment: dict[str, str]) -> None:
        self.environment = environment
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it, behind the web server in line for the processor."""
        command = ["nice", "-n", "5", sys.executable, "-m", "django", "work"]
        user = unprivileged_user()
        with log_of("work") as log:
            self.process = subprocess.Popen(
                command,
                stdout=log,
                stderr=log,
                cwd=ROOT,
                env={**os.environ, **self.environment, "PYTHONPATH": str(ROOT / "src")},
                start_new_session=True,
                user=user.pw_uid if user else None,
                group=user.pw_gid if user else None,
                extra_groups=[] if user else None,
            )

    def stop(self) -> None:
        """End it; what it was at is taken up by the next one."""
        if self.process and self.process.poll() is None:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self.process.pid, signal.SIGTERM)
            try:
                self.process.wait(timeout=PATIENCE_S)
            except subprocess.TimeoutExpired:
                os.killpg(self.process.pid, signal.SIGKILL)
                self.process.wait()


def make_room() -> None:
    """Make the folder for recordings, for whoever writes there and nobody else."""
    RECORDINGS.mkdir(parents=True, exist_ok=True)
    RECORDINGS.chmod(0o700)
    if user := unprivileged_user():
        os.chown(RECORDINGS, user.pw_uid, user.pw_gid)
