"""The web server: gunicorn with threads, on loopback."""

from __future__ import annotations

import contextlib
import os
import pwd
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from launch.place import LOG, OWN, ROOT, end_process, fail, log_of, say

HOST = "127.0.0.1"
ANSWER_S = 30.0
PID_FILE = OWN / "web.pid"


class Web:
    """The gunicorn process of one port."""

    def __init__(self, port: int, environment: dict[str, str]) -> None:
        self.port, self.environment = port, environment
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        """Where a browser finds it."""
        return f"http://{HOST}:{self.port}/"

    def start(self) -> None:
        """Start gunicorn and wait until it answers.

        Raises
        ------
        OSError
            Where it doesn't.
        """
        self._end_workers()
        command = [sys.executable, "-m", "gunicorn", "studio.wsgi", "--bind", f"{HOST}:{self.port}"]
        command += [
            "--worker-class",
            "gthread",
            "--workers",
            "2",
            "--threads",
            "4",
            "--worker-tmp-dir",
            _shared_memory(),
        ]
        command += ["--graceful-timeout", "5", "--timeout", "120", "--pid", str(PID_FILE), "--no-control-socket"]
        command += ["--limit-request-line", "0"]  # a drill of five hundred places is one address
        if user := unprivileged_user():
            command += ["--user", str(user.pw_uid), "--group", str(user.pw_gid)]
        with log_of("web") as log:
            self.process = subprocess.Popen(
                command,
                stdout=log,
                stderr=log,
                cwd=ROOT,
                env={**os.environ, **self.environment},
                start_new_session=True,
            )
        if not self._answers():
            self.stop()
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

    def _end_workers(self) -> None:
        """End what a killed server left of itself: its workers would hold the port and answer in its name."""
        if self.process:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self.process.pid, signal.SIGKILL)

    def _answers(self) -> bool:
        process = self.process
        deadline = time.monotonic() + ANSWER_S
        while process and process.poll() is None and time.monotonic() < deadline:
            try:
                with urllib.request.urlopen(f"{self.address}alive/", timeout=5) as answer:  # noqa: S310 - our own
                    return bool(answer.status == 200)
            except urllib.error.HTTPError as error:
                say(f"the web server answers with {error.code}")
                return False
            except OSError:
                time.sleep(0.05)
        return False


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
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, int(text)))
        except OSError as error:
            other = "8001" if text == "8000" else "8000"
            fail(f"port {text} can't be used ({error.strerror}): choose another, GIUSTO_PORT={other} ./giusto start")
    return int(text)


def unprivileged_user() -> pwd.struct_passwd | None:
    """Return whom root's workers run as: the owner of the checkout, or nobody; None where that can't be.

    Whoever it is must be able to read the checkout.
    """
    if os.geteuid() != 0:
        return None
    owner = (ROOT / "giusto").stat().st_uid
    try:
        user = pwd.getpwuid(owner) if owner else pwd.getpwnam("nobody")
    except KeyError:
        return None
    python = Path(sys.executable).resolve()
    needed = [ROOT / "src/studio/wsgi.py", python, *(ROOT / "src/studio/wsgi.py").parents, *python.parents]
    return user if all(_is_open_to(user, path) for path in needed) else None


def _is_open_to(user: pwd.struct_passwd, path: Path) -> bool:
    """Whether a user may read a file, or pass through a folder."""
    found, bits = path.stat(), 0o5 if path.is_dir() else 0o4
    if found.st_uid == user.pw_uid:
        bits <<= 6
    return found.st_mode & bits == bits


def _shared_memory() -> str:
    return "/dev/shm" if os.access("/dev/shm", os.W_OK) else "/tmp"  # noqa: S108 - gunicorn's own heartbeat file
