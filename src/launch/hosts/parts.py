"""The parts of a larger installation: databases, poolers, web hosts, workers, a balancer; each can be killed."""

from __future__ import annotations

import contextlib
import os
import pwd
import re
import signal
import subprocess
import sys
import time
from abc import ABC, abstractmethod
from dataclasses import dataclass
from pathlib import Path

import psycopg

from launch.cluster import server_programs
from launch.hosts.net import NET, Net
from launch.place import ROOT
from launch.roles import LOGIN, OWNER, SITE
from launch.users import site_user

NAME = "giusto.example"
PORT, POOLED = 5432, 6432
PASSWORD = "for a drill alone"  # noqa: S105 - of databases that are thrown away
POOLS = """[databases]
giusto = host={host} port=5432 dbname=giusto
giusto_direct = host={host} port=5432 dbname=giusto pool_mode=session
[pgbouncer]
listen_addr = 127.0.0.1
auth_type = scram-sha-256
auth_file = {folder}/users.txt
logfile = {folder}/pgbouncer.log
pidfile =
server_login_retry = 1
"""

# What the drill has as deploy/ has it.
KEPT = re.compile(r"tcp_|max_|default_|reserve_|query_|server_c|pool_mode|ignore_|listen_port|unix_")


@dataclass
class World:
    """The net, the folder in which all of it lies, and whose processes are whose."""

    net: Net
    folder: Path

    @property
    def postgres(self) -> tuple[int, int]:
        """Who runs databases and poolers."""
        found = pwd.getpwnam("postgres")
        return found.pw_uid, found.pw_gid

    @property
    def site(self) -> tuple[int, int]:
        """Who runs the site."""
        found = site_user() or pwd.getpwnam("nobody")
        return found.pw_uid, found.pw_gid


class HostPart(ABC):
    """A process on a host."""

    def __init__(self, world: World, host: str) -> None:
        self.world, self.host = world, host
        self.process: subprocess.Popen[bytes] | None = None
        self.folder = world.folder / f"{host}-{type(self).__name__.lower()}"
        self.folder.mkdir(exist_ok=True)

    @abstractmethod
    def start(self) -> None:
        """Start it."""

    def kill(self) -> None:
        """Kill it and all that it started, as a power cut would."""
        if self.process:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None

    def _log(self) -> int:
        return os.open(self.folder / "log", os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o644)


class Database(HostPart):
    """A PostgreSQL server: the first one, or one that follows it."""

    def __init__(self, world: World, host: str) -> None:
        super().__init__(world, host)
        self.data, self.socket = self.folder / "data", self.folder
        self.programs = server_programs()
        os.chown(self.folder, *world.postgres)

    @property
    def address(self) -> str:
        """Where the others find it."""
        return self.world.net.addresses[self.host]

    def make(self, more: str = "") -> None:
        """Make it the first one, empty, with more lines of configuration."""
        self._program("initdb", "-D", str(self.data), "-U", "postgres", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8")
        with (self.data / "postgresql.conf").open("a", encoding="ascii") as file:
            file.write(f"listen_addresses = '*'\nport = {PORT}\nwal_level = replica\nmax_wal_senders = 8\n")
            file.write("hot_standby = on\nwal_keep_size = 256MB\nwal_log_hints = on\nmax_connections = 80\n")
            file.write("synchronous_commit = on\nfsync = off\nfull_page_writes = off\n")  # the power stays on here
            file.write(more)
        with (self.data / "pg_hba.conf").open("a", encoding="ascii") as file:
            file.write(f"host all all {NET}.0/24 scram-sha-256\nhost replication all {NET}.0/24 scram-sha-256\n")

    def follow(self, first: Database) -> None:
        """Be made of the first one, and follow it."""
        where = self._to(first)
        copy = ["-D", str(self.data), "-d", where, "-R", "-c", "fast", "-X", "stream"]
        self.world.net.run(self.host, [str(self.programs / "pg_basebackup"), *copy], user=self.world.postgres)

    def turn_to(self, first: Database) -> None:
        """Follow another from now on."""
        self.ask(f"alter system set primary_conninfo = '{self._to(first)}'")
        self.ask("select pg_reload_conf()")

    def start(self) -> None:
        """Start its server."""
        command = [str(self.programs / "postgres"), "-D", str(self.data), "-k", str(self.socket)]
        log = self._log()
        self.process = self.world.net.start(
            self.host, command, user=self.world.postgres, stdout=log, stderr=log, cwd="/"
        )
        os.close(log)

    def promote(self) -> None:
        """Become the first one."""
        self._program("pg_ctl", "-D", str(self.data), "promote", "-w")

    def ask(self, statement: str, database: str = "postgres", *, port: int = PORT) -> list[tuple[object, ...]]:
        """Ask it as its administrator, past the net."""
        where = {"host": str(self.socket), "port": port, "user": "postgres", "dbname": database}
        with psycopg.connect(**where, autocommit=True, connect_timeout=5) as connection:  # type: ignore[arg-type]
            found = connection.execute(statement)
            return found.fetchall() if found.description else []

    def kill(self) -> None:
        """Kill the server: its children see it, and end."""
        if self.process:
            os.kill(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None

    def own(self, folder: Path) -> None:
        """Give a folder and what is in it to whoever runs the database."""
        for path in (folder, *folder.rglob("*")):
            os.chown(path, *self.world.postgres)

    def beside(self, data: Path, port: int, question: str, database: str) -> list[tuple[object, ...]]:
        """Start a server on restored data beside this one, ask it once it has come to its moment, and end it."""
        command = [str(self.programs / "postgres"), "-D", str(data), "-p", str(port), "-k", str(self.socket)]
        command += ["-c", "archive_mode=off", "-c", "synchronous_standby_names="]
        log = self._log()
        server = self.world.net.start(self.host, command, user=self.world.postgres, stdout=log, stderr=log, cwd="/")
        os.close(log)
        try:
            deadline = time.monotonic() + 60
            while True:
                try:
                    if self.ask("select pg_is_in_recovery()", port=port) == [(False,)]:
                        return self.ask(question, database, port=port)
                except psycopg.OperationalError:
                    if time.monotonic() > deadline:
                        raise
                time.sleep(0.2)
        finally:
            server.send_signal(signal.SIGINT)
            server.wait()

    def settle(self, followers: int) -> None:
        """Make roles and database, and have each commit wait for followers by name where there are any."""
        self.ask(f"create role {OWNER} {LOGIN} password '{PASSWORD}'")
        self.ask(f"create role {SITE} {LOGIN} password '{PASSWORD}'")
        self.ask(f"create role follower login replication password '{PASSWORD}'")
        self.ask(f"create database giusto owner {OWNER}")
        self.ask(f"alter schema public owner to {OWNER}", "giusto")
        for what, on in (("select, insert, update, delete", "tables"), ("usage, select", "sequences")):
            grant = f"alter default privileges for role {OWNER} in schema public grant {what} on {on} to {SITE}"
            self.ask(grant, "giusto")
        self.ask(f"grant usage on schema public to {SITE}", "giusto")

    def wait_for(self, names: list[str]) -> None:
        """Have each commit wait until one of these has it too; until nobody where there is none."""
        said = f"ANY 1 ({', '.join(names)})" if names else ""
        self.ask(f"alter system set synchronous_standby_names = '{said}'")
        self.ask("select pg_reload_conf()")

    def _to(self, first: Database) -> str:
        who = f"user=follower password={PASSWORD.replace(' ', chr(92) + ' ')}"
        return f"host={first.address} port={PORT} {who} application_name={self.host}"

    def _program(self, program: str, *words: str) -> None:
        self.world.net.run(self.host, [str(self.programs / program), *words], user=self.world.postgres, cwd="/")


class Pooler(HostPart):
    """A pgbouncer beside the site: by transaction, and by session for locks and workers."""

    def __init__(self, world: World, host: str, first: Database) -> None:
        super().__init__(world, host)
        (self.folder / "users.txt").write_text(f'"{SITE}" "{PASSWORD}"\n', encoding="ascii")
        self.point_to(first)
        for path in (self.folder, *self.folder.iterdir()):
            os.chown(path, *world.postgres)

    def point_to(self, first: Database) -> None:
        """Lead to another database, without a restart."""
        text = (ROOT / "deploy/pgbouncer/pgbouncer.ini").read_text(encoding="utf-8")
        drilled = POOLS.format(host=first.address, folder=self.folder)
        keep = [line for line in text.splitlines() if KEPT.match(line)]
        (self.folder / "pgbouncer.ini").write_text(drilled + "\n".join(keep) + "\n", encoding="utf-8")
        if self.process:
            self.process.send_signal(signal.SIGHUP)

    def start(self) -> None:
        """Start it."""
        log = self._log()
        command = ["/usr/sbin/pgbouncer", "-q", str(self.folder / "pgbouncer.ini")]
        self.process = self.world.net.start(self.host, command, user=self.world.postgres, stdout=log, stderr=log)
        os.close(log)


class SitePart(HostPart):
    """A web host or a worker, as ``./giusto host`` runs it."""

    command = ""

    def environment(self, *, database: str = "127.0.0.1", role: str = SITE) -> dict[str, str]:
        """Return what it is told."""
        password, key = self.folder / "password", self.world.folder / "key"
        password.write_text(PASSWORD, encoding="ascii")
        run = self.folder / "run"
        run.mkdir(exist_ok=True)
        os.chown(run, *self.world.site)
        own = {
            "GIUSTO_DB_HOST": database,
            "GIUSTO_DB_PORT": str(POOLED if database == "127.0.0.1" else PORT),
            "GIUSTO_DB_NAME": "giusto",
            "GIUSTO_DB_USER": role,
            "GIUSTO_DB_PASSWORD_FILE": str(password),
            "GIUSTO_SECRET_KEY_FILE": str(key),
            "GIUSTO_HOSTS": NAME,
            "GIUSTO_STORAGE": f"files:{self.world.folder / 'sounds'}",
            "GIUSTO_RUN": str(run),
            "GIUSTO_STATIC": str(self.world.folder / "static"),
            "GIUSTO_BIND": "0.0.0.0:8000",
        }
        return {"PATH": os.environ["PATH"], "PYTHONPATH": str(ROOT / "src"), "OPENBLAS_NUM_THREADS": "1", **own}

    def start(self) -> None:
        """Start it."""
        log = self._log()
        self.process = self.world.net.start(
            self.host,
            [sys.executable, "-m", "launch.host", self.command],
            user=self.world.site,
            env=self.environment(),
            stdout=log,
            stderr=log,
        )
        os.close(log)


class WebHost(SitePart):
    """A web host, with a pooler beside it."""

    command = "web"

    def environment(self, *, database: str = "127.0.0.1", role: str = SITE) -> dict[str, str]:
        """Return what it is told: a pooler by transaction, and locks past it."""
        pooled = {"GIUSTO_DB_POOLER": "transaction", "GIUSTO_DB_DIRECT_NAME": "giusto_direct"}
        pooled |= {"GIUSTO_DB_DIRECT_HOST": "127.0.0.1", "GIUSTO_DB_DIRECT_PORT": str(POOLED)}
        return {**super().environment(database=database, role=role), **(pooled if role == SITE else {})}


class HostWorker(SitePart):
    """A worker, on the pool by session."""

    command = "worker"

    def environment(self, *, database: str = "127.0.0.1", role: str = SITE) -> dict[str, str]:
        """Return what it is told."""
        return {**super().environment(database=database, role=role), "GIUSTO_DB_NAME": "giusto_direct"}


class Balancer(HostPart):
    """HAProxy, by the file in deploy/, without TLS and with the hosts of the drill."""

    def __init__(self, world: World, host: str, webs: list[WebHost]) -> None:
        super().__init__(world, host)
        text = (ROOT / "deploy/haproxy/haproxy.cfg").read_text(encoding="utf-8")
        text = re.sub(r"    bind :443[^\n]*\n|    http-request redirect[^\n]*\n|    server web[^\n]*\n", "", text)
        page = str(ROOT / "deploy/haproxy/503.http")
        text = text.replace("studio.example", NAME).replace("/etc/haproxy/503.http", page)
        text = text.replace("set-header X-Client-Address", "set-header X-Real-IP")
        text = text.replace("/run/haproxy/admin.sock", str(self.folder / "admin.sock"))
        servers = "".join(f"    server {web.host} {world.net.addresses[web.host]}:8000\n" for web in webs)
        (self.folder / "haproxy.cfg").write_text(text + servers, encoding="utf-8")

    def start(self) -> None:
        """Start it."""
        log = self._log()
        command = ["haproxy", "-q", "-db", "-f", str(self.folder / "haproxy.cfg")]
        self.process = self.world.net.start(self.host, command, stdout=log, stderr=log)
        os.close(log)
