"""The web server: gunicorn with threads, on loopback; behind a proxy, on a socket of its own."""

from __future__ import annotations

import contextlib
import http.client
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
    *("--worker-class", "launch.server.ImpatientWorker", "--threads", "8"),
    *("--graceful-timeout", "5", "--timeout", "120", "--no-control-socket"),
    *("--limit-request-line", "0"),  # a drill of five hundred places is one address
    *("--max-requests", "3000", "--max-requests-jitter", "600"),  # workers are renewed now and then: memory
)


class Web:
    """The gunicorn process of one port."""

    workers = 2

    def __init__(self, port: int, environment: dict[str, str]) -> None:
        self.port, self.environment = port, {**environment, "GIUSTO_START": secrets.token_hex(8)}
        self.pid_file = PID_FILE
        self.is_another = False
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        """Where a browser finds it."""
        return f"http://{HOST}:{self.port}/"

    @property
    def bind(self) -> str:
        """Where gunicorn listens."""
        return f"{HOST}:{self.port}"

    @property
    def taken(self) -> str:
        """Why it did not start, where that is not its own fault."""
        return "" if _is_free(self.port) else f"port {self.port} was taken meanwhile: {self._another_port}"

    @property
    def _another_port(self) -> str:
        return f"choose another, GIUSTO_PORT={self.port + 1}"

    def start(self) -> None:
        """Start gunicorn and wait until it answers: as long as it lives, for a busy machine is slow.

        Raises
        ------
        OSError
            Where it ends.
        """
        self._end_workers()
        command = [sys.executable, "-m", "gunicorn", "studio.wsgi", "--bind", self.bind, *OPTIONS]
        command += ["--workers", str(self.workers), "--worker-tmp-dir", str(_heartbeats()), "--pid", str(self.pid_file)]
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
                raise OSError(f"port {self.port} is another Giusto's: {self._another_port}")
            time.sleep(0.05)
            if time.monotonic() - told > TELL_S:
                told = time.monotonic()
                say("the web server is still starting: this machine is busy")
        raise OSError(self.taken or f"the web server did not start: see {LOG / 'web.log'}")

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
            self.is_another = json.loads(self._ask()).get("of") != self.environment.get("GIUSTO_START", "")
        except urllib.error.HTTPError as error:
            error.close()
        except ValueError:
            self.is_another = True
        except OSError:
            return False
        return not self.is_another

    def _ask(self) -> bytes:
        """Return its sign of life."""
        with urllib.request.urlopen(f"{self.address}alive/", timeout=ANSWER_S) as answer:  # noqa: S310 - our own
            return bytes(answer.read())

    def _end_workers(self) -> None:
        """End what a killed server left of itself: its workers would hold the port and answer in its name."""
        if self.process:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self.process.pid, signal.SIGKILL)


class WebBehind(Web):
    """A gunicorn process that a proxy of ours alone can ask: through a socket that is the site's user's.

    Parameters
    ----------
    file : Path
        The socket.
    host : str
        A name that the site answers to.
    workers : int
    """

    def __init__(self, file: Path, host: str, environment: dict[str, str], *, workers: int = 2) -> None:
        super().__init__(0, environment)
        self.file, self.host, self.workers = file, host, workers
        self.pid_file = file.with_suffix(".pid")

    @property
    def bind(self) -> str:
        """Where gunicorn listens."""
        return f"unix:{self.file}"

    @property
    def taken(self) -> str:
        """Why it did not start: nobody else can have its socket."""
        return ""

    def _ask(self) -> bytes:
        return ask_socket(self.file, self.host)


def ask_socket(file: Path, host: str) -> bytes:
    """Return the sign of life of a site behind a socket; OSError where it gives none."""
    connection = _SocketConnection(file)
    try:
        connection.request("GET", "/alive/", headers={"Host": host})
        answer = connection.getresponse()
        content = answer.read()
        return content if answer.status == http.client.OK else b"{}"
    except http.client.HTTPException as error:
        raise ConnectionError(str(error)) from error
    finally:
        connection.close()


class _SocketConnection(http.client.HTTPConnection):
    """HTTP through a socket in the file system."""

    def __init__(self, file: Path) -> None:
        super().__init__("localhost", timeout=ANSWER_S)
        self.file = file

    def connect(self) -> None:
        """Connect to the socket."""
        self.sock = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        self.sock.settimeout(self.timeout)
        self.sock.connect(str(self.file))


def end_orphan(pid_file: Path = PID_FILE) -> None:
    """End a web server that an earlier start left behind when it was killed."""
    try:
        pid = int(pid_file.read_text(encoding="ascii"))
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
