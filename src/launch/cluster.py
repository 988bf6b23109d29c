"""A PostgreSQL cluster of the project's own, on loopback.

The server comes from Debian's packages and runs as a child of ours. It refuses to run as root; then
the ``postgres`` user owns the data and runs it.
"""

from __future__ import annotations

import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import psycopg

from launch import packages
from launch.place import LOG, end_process, fail, log_of, say, write_whole

HOST, USER, DATABASE = "127.0.0.1", "giusto", "giusto"
START_S = 30.0  # of tries; one that lives is waited for
TELL_S = 15.0
FAR_PLACE = Path("/var/lib/giusto")  # for data below a folder that the postgres user may not enter


class Cluster:
    """One data folder and the server on it.

    Parameters
    ----------
    folder : Path
        Where the data lies, or shall lie.
    settings : sequence of str
        Server settings such as ``fsync=off``.
    safe : bool
        Whether making it waits for the disk; false for data that are thrown away.
    """

    def __init__(self, folder: Path, *, settings: Sequence[str] = (), safe: bool = True) -> None:
        self.folder, self.settings, self.safe = folder, settings, safe
        self.password_file = folder.with_name(f"{folder.name}.password")
        self.unfinished = folder.with_name(f"{folder.name}.unfinished")  # there until its tables were made once
        self.programs = server_programs(folder)
        self.port = 0
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def environment(self) -> dict[str, str]:
        """What the Django settings read."""
        if not self.password_file.exists():
            fail(f"the database's password is missing: {self.password_file} lies beside the data, in a backup perhaps")
        password = self.password_file.read_text(encoding="ascii").strip()
        return {"GIUSTO_DB_PORT": str(self.port), "GIUSTO_DB_PASSWORD": password}

    def start(self) -> None:
        """Make the cluster where it is missing, start its server and wait until it answers."""
        if self.folder.is_symlink() and not self.folder.exists():
            fail(f"the database lies in {self.folder.readlink()}, which is not there: is its disk mounted?")
        if not (self.folder / "PG_VERSION").exists():
            self._make()
        self._end_orphan()
        self.port = self.port or free_port()  # the same one again after a crash
        deadline = time.monotonic() + START_S
        while True:  # a killed server's lock can outlive it for a moment: try again
            self._spawn()
            if self._answers():
                return
            if time.monotonic() > deadline:
                fail(f"the database did not start: see {LOG / 'postgres.log'}")
            time.sleep(0.3)

    def begin_anew(self) -> None:
        """Empty a new database whose tables were never all made: whatever made them was killed."""
        with self.connection("postgres") as connection:
            connection.execute(f"drop database if exists {DATABASE} with (force)")
            connection.execute(f"create database {DATABASE}")

    def lives(self) -> None:
        """Not asked: the server looks after its own processes, and the web server's sign of life asks it."""

    def stop(self) -> None:
        """End the server, its connections closed and all written."""
        if self.process and self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
            self.process.wait(timeout=60)

    def _make(self) -> None:
        """Make the cluster beside its place and move it there whole: half a one is never used."""
        making = self.folder.with_name(f"{self.folder.name}.making")
        self.folder.parent.mkdir(parents=True, exist_ok=True)
        if self.folder.exists() or self.folder.is_symlink():
            aside = self.folder.with_name(f"{self.folder.name}.broken-{int(time.time())}")
            say(f"{self.folder} is no database: moved aside to {aside.name}")
            self.folder.rename(aside)
            if self.password_file.exists():
                self.password_file.rename(aside.with_name(f"{aside.name}.password"))
        shutil.rmtree(making, ignore_errors=True)
        self.unfinished.touch()
        user = server_user(None)
        at = making
        if user and not _may_enter(user, self.folder.parent):
            FAR_PLACE.mkdir(mode=0o755, exist_ok=True)
            at = FAR_PLACE / secrets.token_hex(8)
            say(f"the postgres user may not enter {self.folder.parent}: the data go to {at}")
        at.mkdir(mode=0o700)
        if user:
            os.chown(at, user.pw_uid, user.pw_gid)
        self._initdb(at, user)
        if at is making:
            making.rename(self.folder)
        else:
            self.folder.symlink_to(at)

    def _initdb(self, at: Path, user: pwd.struct_passwd | None) -> None:
        password = secrets.token_hex(24)
        write_whole(self.password_file, password)
        with tempfile.NamedTemporaryFile("w", prefix="giusto-", encoding="ascii") as handed:
            handed.write(password)
            handed.flush()
            if user:
                os.chown(handed.name, user.pw_uid, user.pw_gid)
            command: list[str | Path] = [self.programs / "initdb", "-D", at, "-U", USER, "-A", "scram-sha-256"]
            command += ["--pwfile", handed.name, "-E", "UTF8", "--locale=C.UTF-8"]
            done = _run([*command, *([] if self.safe else ["--no-sync"])], user)
        if done.returncode:
            fail(f"making the database failed: {done.stderr.decode(errors='replace').strip().splitlines()[-1]}")

    def _spawn(self) -> None:
        data = self.folder.resolve()
        user = server_user(data)
        command: list[str | Path] = [self.programs / "postgres", "-D", data, "-h", HOST, "-p", str(self.port), "-k", ""]
        command += ["-c", "log_min_error_statement=panic"]  # what was refused would fill the log
        command += ["-c", "random_page_cost=1.1"]  # all of it lies in memory: an index beats reading a table whole
        for setting in self.settings:
            command += ["-c", setting]
        with log_of("postgres") as log:
            self.process = subprocess.Popen(
                command, stdout=log, stderr=log, cwd="/", start_new_session=True, **_as(user)
            )

    def _answers(self) -> bool:
        """Wait until it answers, as long as it lives: after a power cut it has much to look through."""
        process, told = self.process, time.monotonic()
        while process and process.poll() is None:
            if time.monotonic() - told > TELL_S:
                told = time.monotonic()
                say("the database is still starting")
            try:
                with self.connection("postgres") as connection:
                    found = connection.execute("select 1 from pg_database where datname = %s", [DATABASE])
                    if not found.fetchone():
                        connection.execute(f"create database {DATABASE}")
                return True
            except psycopg.OperationalError as error:
                if "password authentication" in str(error):
                    self.stop()
                    fail(f"{self.password_file} does not fit the database in {self.folder}")
                time.sleep(0.05)
        return False

    def connection(self, database: str) -> psycopg.Connection:
        """Return a connection to a database of the cluster, each statement by itself."""
        password = self.environment["GIUSTO_DB_PASSWORD"]
        return psycopg.connect(
            host=HOST, port=self.port, user=USER, password=password, dbname=database, autocommit=True
        )

    def running_port(self) -> int:
        """Return the port of the server on this data, 0 where none runs."""
        return self._running()[1]

    def _running(self) -> tuple[int, int]:
        """Return process and port of the server on this data, zeros where none runs."""
        data = self.folder.resolve()
        try:
            lines = (data / "postmaster.pid").read_text(encoding="utf-8").split("\n")
            pid, port = int(lines[0]), int(lines[3])
            ours = Path(f"/proc/{pid}/cwd").resolve() == data
        except (OSError, ValueError, IndexError):
            return 0, 0
        return (pid, port) if ours else (0, 0)

    def _end_orphan(self) -> None:
        """End a server that an earlier start left behind when it was killed."""
        pid, _ = self._running()
        if not pid:
            return
        say("ending the database server that an earlier start left behind")
        end_process(pid, signal.SIGINT)


def free_port() -> int:
    """Return a loopback port that nobody listens on."""
    with socket.socket() as probe:
        probe.bind((HOST, 0))
        return int(probe.getsockname()[1])


def server_programs(data: Path | None = None) -> Path:
    """Return the folder of PostgreSQL's server programs, installed where they are missing: those of the data."""
    version = data / "PG_VERSION" if data else None
    wanted = version.read_text(encoding="ascii").strip() if version and version.exists() else None
    for attempt in range(2):
        found = [p.parent for p in Path("/usr/lib/postgresql").glob("*/bin/initdb") if (p.parent / "postgres").exists()]
        if wanted and found and wanted not in {folder.parent.name for folder in found}:
            fail(f"the data are PostgreSQL {wanted}'s: install postgresql-{wanted}, or restore a backup")
        if wanted and found:
            return next(folder for folder in found if folder.parent.name == wanted)
        if found:
            return max(found, key=lambda folder: int(folder.parent.name))
        if not attempt:
            packages.install("postgresql")
    fail("Debian's package postgresql is there, but its server is not in /usr/lib/postgresql")


def server_user(data: Path | None) -> pwd.struct_passwd | None:
    """Return the user that runs the server, or None for the one who asks."""
    me = os.geteuid()
    if data is not None and (owner := data.stat().st_uid) not in (me, 0):
        if me != 0:
            fail(f"the database in {data} belongs to {pwd.getpwuid(owner).pw_name}: start Giusto as that user")
        return pwd.getpwuid(owner)
    if me != 0:
        return None
    server_programs()  # on a bare machine the user comes with Debian's package
    return pwd.getpwnam("postgres")


def _may_enter(user: pwd.struct_passwd, folder: Path) -> bool:
    return _run(["test", "-x", folder.resolve()], user).returncode == 0


def _run(command: Sequence[str | Path], user: pwd.struct_passwd | None) -> subprocess.CompletedProcess[bytes]:
    return subprocess.run(command, cwd="/", capture_output=True, check=False, **_as(user))


def _as(user: pwd.struct_passwd | None) -> dict[str, Any]:
    return {"user": user.pw_uid, "group": user.pw_gid, "extra_groups": []} if user else {}
