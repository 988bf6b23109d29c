"""``./giusto start``: database, migrations, web server, workers, demo data; all ended by Ctrl-C."""

from __future__ import annotations

import fcntl
import os
import signal
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TextIO

from launch import this_version, web
from launch.cluster import Cluster
from launch.place import OWN, ROOT, fail, held, log_of, say
from launch.tables import close_tables, make_tables, site_environment
from launch.users import RUN, as_site, empty_spool, why_root
from launch.watch import Told, WatchedPart, watch
from launch.work import Worker

# Which lanes of the queue each worker looks at: what is played now never waits behind an hour of sound.
WORKERS = {"worker": "now,default", "second worker": "default,long"}


def main() -> None:
    """Start everything, watch over it, end everything."""
    if len(sys.argv) > 1:
        fail("start takes no arguments; GIUSTO_PORT chooses the port")
    OWN.mkdir(exist_ok=True)
    lock = only_one()
    port = web.chosen_port()
    cluster = Cluster(OWN / "cluster")
    with held(OWN / "database.lock", "another ./giusto command uses the database: waiting until it ends"):
        stopping = told_to_stop()
        web.end_orphan()
        empty_spool()
        cluster.start()
    with together(cluster) as running:
        make_tables(cluster)
        this_version.settle()
        close_tables()
        environment = site_environment(cluster)
        server = web.Web(port, environment)
        workers = [(name, Worker(name, lanes, environment)) for name, lanes in WORKERS.items()]
        running.parts += [("web server", server), *workers]
        if not stopping.is_set():
            server.start()
            lock.write(server.address)
            lock.flush()
            if reason := why_root():
                say(f"all of it runs as root: {reason}")
            say(f"ready at {server.address}  (Ctrl-C ends it)")
            running.behind = catch_up(environment)
            for _, worker in workers:
                worker.start()
        watch(running.parts, stopping, Told(RUN / "down.json"))


@dataclass
class Running:
    """What runs: the parts in the order in which they were started, and what is done behind them once."""

    parts: list[tuple[str, WatchedPart]]
    behind: subprocess.Popen[bytes] | None = None


@contextmanager
def together(cluster: Cluster) -> Iterator[Running]:
    """Have parts run together on a database that was started, and end them all in the opposite order."""
    running = Running([("database", cluster)])
    try:
        yield running
    except OSError as error:
        fail(str(error))
    except KeyboardInterrupt:
        say("ending at once")
    finally:
        if running.behind:
            running.behind.terminate()
            running.behind.wait()
        for _, part in reversed(running.parts):
            part.stop()
    say("ended")


def told_to_stop() -> threading.Event:
    """Return what Ctrl-C and its like set from now on; asked twice, whatever is waited for is given up."""
    stopping = threading.Event()

    def stop(*_: object) -> None:
        if stopping.is_set():
            raise KeyboardInterrupt
        stopping.set()

    for name in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(name, stop)
    return stopping


def catch_up(environment: dict[str, str]) -> subprocess.Popen[bytes]:
    """Make the demo, read what waits and sweep, beside the web server and behind it in line."""
    with log_of("behind") as log:
        return subprocess.Popen(
            ["nice", "-n", "10", sys.executable, "-m", "django", "catch_up"],
            stdout=log,
            stderr=log,
            env={**os.environ, **environment, "PYTHONPATH": str(ROOT / "src")},
            **as_site(),
        )


def only_one() -> TextIO:
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
