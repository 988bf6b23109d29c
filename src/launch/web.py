"""The web server: gunicorn with threads, on loopback."""

from __future__ import annotations

import contextlib
import json
import os
import secrets
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from launch.place import LOG, ROOT, end_process, fail, log_of, say
from launch.users import RUN, as_site

HOST = "127.0.0.1"
ANSWER_S = 5.0
TELL_S = 15.0
PID_FILE = RUN / "web.pid"
OPTIONS = (
    *("--worker-class", "launch.server.ImpatientWorker", "--workers", "2", "--threads", "8"),
    *("--graceful-timeout", "5", "--timeout", "120", "--no-control-socket"),
    *("--limit-request-line", "0"),  # a drill of five hundred places is one address
    *("--max-requests", "3000", "--max-requests-jitter", "600"),  # workers are renewed now and then: memory
)


class Web:
    """The gunicorn process of one port."""

    def __init__(self, port: int, environment: dict[str, str]) -> None:
        self.port, self.environment = port, {**environment, "GIUSTO_START": secrets.token_hex(8)}
        self.is_another = False
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        """Where a browser finds it."""
        return f"http://{HOST}:{self.port}/"

    def start(self) -> None:
        """Start gunicorn and wait until it answers: as long as it lives, for a busy machine is slow.

        Raises
        ------
        OSError
            Where it ends.
        """
        self._end_workers()
        command = [sys.executable, "-m", "gunicorn", "studio.wsgi", "--bind", f"{HOST}:{self.port}", *OPTIONS]
        command += ["--worker-tmp-dir", str(_heartbeats()), "--pid", str(PID_FILE)]
        with log_of("web") as log:
            self.process = subprocess.Popen(
                command, stdout=log, stderr=log, env={**os.environ, **self.environment}, **as_site()
            )
        told = time.monotonic()
        while self.process.poll() is None:
            if self.lives():
                return
            if self.is_another:
                self.stop()
                raise OSError(f"port {self.port} is another Giusto's: choose another, GIUSTO_PORT={self.port + 1}")
            time.sleep(0.05)
            if time.monotonic() - told > TELL_S:
                told = time.monotonic()
                say("the web server is still starting: this machine is busy")
        if not _is_free(self.port):
            raise OSError(f"port {self.port} was taken meanwhile: choose another, GIUSTO_PORT={self.port + 1}")
        raise OSError(f"the web server did not start: see {LOG / 'web.log'}")

    def stop(self) -> None:
        """End the server after the requests under way."""
        if self.process and self.process.poll() is None:
            self.process.send_signal(signal.SIGTERM)
            try:
                self.process.wait(timeout=15)
            except subprocess.TimeoutExpired:
                os.killpg(self.process.pid, signal.SIGKILL)
                self.process.wait()

    def lives(self) -> bool:
        """Whether it answers, be it that the database does not; another server on its port is not it."""
        try:
            with urllib.request.urlopen(f"{self.address}alive/", timeout=ANSWER_S) as answer:  # noqa: S310 - our own
                self.is_another = json.load(answer).get("of") != self.environment.get("GIUSTO_START", "")
        except urllib.error.HTTPError as error:
            error.close()
        except ValueError:
            self.is_another = True
        except OSError:
            return False
        return not self.is_another

    def _end_workers(self) -> None:
        """End what a killed server left of itself: its workers would hold the port and answer in its name."""
        if self.process:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self.process.pid, signal.SIGKILL)


def end_orphan() -> None:
    """End a web server that an earlier start left behind when it was killed."""
    try:
        pid = int(PID_FILE.read_text(encoding="ascii"))
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
        ours = b"studio.wsgi" in command and Path(f"/proc/{pid}/cwd").resolve() == ROOT
    except (OSError, ValueError):
        return
    if ours:
        say("ending the web server that an earlier start left behind")
        end_process(pid, signal.SIGTERM)


def chosen_port() -> int:
    """Return GIUSTO_PORT or 8000, or stop with a line where it can't be used."""
    text = os.environ.get("GIUSTO_PORT", "8000")
    if not text.isdecimal() or not 1 <= int(text) <= 65535:
        fail(f"GIUSTO_PORT is '{text}', allowed is a number from 1 to 65535")
    if not _is_free(int(text)):
        other = "8001" if text == "8000" else "8000"
        fail(f"port {text} can't be used: choose another, GIUSTO_PORT={other} ./giusto start")
    return int(text)


def _is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError:
            return False
    return True


def _heartbeats() -> Path:
    """Return where gunicorn's workers beat: in memory where everybody may write there, for a disk can stand still."""
    shared = Path("/dev/shm")  # noqa: S108 - nothing lies there but the time
    return shared if shared.is_dir() and shared.stat().st_mode & 0o002 else RUN
