"""``./giusto start``: database, migrations, demo data, web server, worker; all ended by Ctrl-C."""

from __future__ import annotations

import fcntl
import os
import signal
import subprocess
import sys
import threading
import time
from typing import TextIO

from launch import web
from launch.cluster import Cluster
from launch.place import LOG, OWN, ROOT, fail, held, say
from launch.tables import make_tables, settings_environment
from launch.work import Worker, make_room

RESPAWNS, RESPAWN_WINDOW_S = 5, 60.0


def main() -> None:
    """Start everything, watch over it, end everything."""
    if len(sys.argv) > 1:
        fail("start takes no arguments; GIUSTO_PORT chooses the port")
    OWN.mkdir(exist_ok=True)
    lock = _only_one()
    stopping = threading.Event()
    for name in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(name, lambda *_: stopping.set())
    web.end_orphan()
    port = web.chosen_port()
    cluster = Cluster(OWN / "cluster")
    server = worker = reader = None
    try:
        with held(OWN / "database.lock", "another ./giusto command uses the database: waiting until it ends"):
            cluster.start()
        environment = {**cluster.environment, **settings_environment()}
        prepare(cluster, environment)
        server = web.Web(port, environment)
        if not stopping.is_set():
            try:
                server.start()
            except OSError as error:
                fail(str(error))
            lock.write(server.address)
            lock.flush()
            say(f"ready at {server.address}  (Ctrl-C ends it)")
            reader = read_what_waits(environment)
            worker = Worker(environment)
            worker.start()
        _watch({"database": cluster, "web server": server, "worker": worker}, stopping)
    finally:
        if reader:
            reader.terminate()
            reader.wait()
        if worker:
            worker.stop()
        if server:
            server.stop()
        cluster.stop()
    say("ended")


def prepare(cluster: Cluster, environment: dict[str, str]) -> None:
    """Bring the database up to date, a copy of it put away first; make the demo where there is none."""
    os.environ.update(environment)
    make_tables(cluster)
    from django.core.management import call_command
    from django.db import connection

    make_room()
    call_command("rekey", "--if-stale", stdout=sys.stderr)
    call_command("demo", "--if-new", stdout=sys.stderr)
    call_command("collectstatic", verbosity=0, interactive=False, ignore_patterns=["ext", "htmax*"])
    connection.close()
    connection.close_pool()  # type: ignore[attr-defined]  # of the PostgreSQL backend alone


def read_what_waits(environment: dict[str, str]) -> subprocess.Popen[bytes]:
    """Read takes that no reading was made of, or by an older core, beside the web server and behind it in line."""
    command = ["nice", "-n", "10", sys.executable, "-m", "django", "reread"]
    with (LOG / "reread.log").open("ab") as log:
        return subprocess.Popen(
            command,
            stdout=log,
            stderr=log,
            env={**os.environ, **environment, "PYTHONPATH": str(ROOT / "src")},
            start_new_session=True,
        )


def _watch(parts: dict[str, Cluster | web.Web | Worker | None], stopping: threading.Event) -> None:
    """Start again what dies, until told to stop; give up on what dies again and again."""
    deaths: list[float] = []
    while not stopping.wait(0.2):
        for name, part in parts.items():
            if part is None or part.process is None or part.process.poll() is None:
                continue
            deaths = [at for at in deaths if time.monotonic() - at < RESPAWN_WINDOW_S] + [time.monotonic()]
            if len(deaths) > RESPAWNS:
                fail(f"the {name} ended {len(deaths)} times within a minute: see {LOG}")
            say(f"the {name} ended unexpectedly: starting it again")
            try:
                part.start()
            except OSError as error:  # one more death, not the end
                say(str(error))


def _only_one() -> TextIO:
    """Hold a lock for as long as this process lives, or say who holds it."""
    lock = (OWN / "start.lock").open("a+", encoding="ascii")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.seek(0)
        fail(f"Giusto runs from {ROOT} already: {lock.read() or 'it is just starting'}")
    lock.truncate(0)
    return lock


if __name__ == "__main__":
    main()
