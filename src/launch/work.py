"""A worker: hears recordings and reads takes and scores behind the pages, from the queue in the database."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
from pathlib import Path

from launch.place import ROOT, log_of
from launch.users import RUN, as_site

PATIENCE_S = 5


class Worker:
    """A process that works through lanes of the queue; started again when it dies, it takes up what was left.

    Parameters
    ----------
    name : str
        Of its sign of life.
    lanes : str
        Names of the queue's lanes, with commas.
    environment : dict
    """

    def __init__(self, name: str, lanes: str, environment: dict[str, str]) -> None:
        self.lanes, self.environment = lanes, environment
        self.sign: Path = RUN / f"{name}.alive"
        self.process: subprocess.Popen[bytes] | None = None
        self._last = b""

    def start(self) -> None:
        """Start it, behind the web server in line for the processor."""
        command = ["nice", "-n", "5", sys.executable, "-m", "django", "work", "--lanes", self.lanes]
        command += ["--sign", str(self.sign)]
        environment = {**os.environ, **self.environment, "PYTHONPATH": str(ROOT / "src")}
        with log_of("work") as log:
            self.process = subprocess.Popen(command, stdout=log, stderr=log, env=environment, **as_site())

    def lives(self) -> bool:
        """Whether it wrote something new on its sign of life since it was asked last."""
        try:
            found = self.sign.read_bytes()
        except OSError:
            return False
        before, self._last = self._last, found
        return found != before

    def stop(self) -> None:
        """End it; what it was at is taken up by the next one."""
        process = self.process
        if process is None or process.poll() is not None:
            return
        for signal_number in (signal.SIGTERM, signal.SIGTERM, signal.SIGKILL):  # after the task; in it; at once
            with contextlib.suppress(ProcessLookupError):
                os.killpg(process.pid, signal_number)
            with contextlib.suppress(subprocess.TimeoutExpired):
                process.wait(timeout=PATIENCE_S)
                return
        process.wait()
