"""``./giusto backup FILE`` and ``./giusto restore FILE``: all that is kept, as one file of PostgreSQL's own."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from launch.cluster import DATABASE, HOST, USER, Cluster
from launch.place import fail, say

RESTORED = f"{DATABASE}_restored"


def main() -> None:
    """Write a backup, or put one back."""
    from launch.manage import database

    if len(sys.argv) != 3 or sys.argv[1] not in ("backup", "restore"):
        fail("give one file: ./giusto backup FILE, ./giusto restore FILE")
    what, path = sys.argv[1], Path(sys.argv[2])
    if what == "restore" and not path.is_file():
        fail(f"there is no file {path}")
    with database() as cluster:
        if what == "backup":
            dump(cluster, path)
            say(f"all takes, drills and settings are in {path}")
        else:
            if cluster.process is None:
                fail("Giusto is running: end it first (Ctrl-C where it was started)")
            put_back(cluster, path)
            say(f"the database is as it was in {path}")


def dump(cluster: Cluster, path: Path) -> None:
    """Write all that the database holds to a file; whole or not at all."""
    making = path.with_name(f"{path.name}.part")
    _run(cluster, "pg_dump", "-d", DATABASE, "--format=custom", f"--file={making}")
    making.replace(path)


def put_back(cluster: Cluster, path: Path) -> None:
    """Make the database what a backup holds, whole or not at all: beside the one that is, which then gives way."""
    with cluster.connection("postgres") as connection:
        connection.execute(f"drop database if exists {RESTORED}")
        connection.execute(f"create database {RESTORED}")
        _run(cluster, "pg_restore", "-d", RESTORED, "--no-owner", "--exit-on-error", str(path))
        connection.execute(f"drop database {DATABASE} with (force)")
        connection.execute(f"alter database {RESTORED} rename to {DATABASE}")


def _run(cluster: Cluster, program: str, *options: str) -> None:
    where = ("-h", HOST, "-p", str(cluster.port), "-U", USER)
    environment = {**os.environ, "PGPASSWORD": cluster.environment["GIUSTO_DB_PASSWORD"]}
    command: list[str | Path] = [cluster.programs / program, *where, *options]
    done = subprocess.run(command, env=environment, capture_output=True, check=False)
    if done.returncode:
        fail(f"{program} failed: {done.stderr.decode(errors='replace').strip().splitlines()[-1]}")


if __name__ == "__main__":
    main()
