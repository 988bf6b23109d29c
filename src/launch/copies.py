"""Copies of the database as one file of PostgreSQL's own, and putting one back."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

from launch.cluster import DATABASE, HOST, USER, Cluster
from launch.place import fail

RESTORED = f"{DATABASE}_restored"


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
        _run(cluster, "pg_restore", "-d", RESTORED, "--no-owner", "--no-privileges", "--exit-on-error", str(path))
        connection.execute(f"drop database {DATABASE} with (force)")
        connection.execute(f"alter database {RESTORED} rename to {DATABASE}")


def _run(cluster: Cluster, program: str, *options: str) -> None:
    where = ("-h", HOST, "-p", str(cluster.port), "-U", USER)
    environment = {**os.environ, "PGPASSWORD": cluster.environment["GIUSTO_DB_PASSWORD"]}
    command: list[str | Path] = [cluster.programs / program, *where, *options]
    done = subprocess.run(command, env=environment, capture_output=True, check=False, umask=0o077)
    if done.returncode:
        fail(f"{program} failed: {done.stderr.decode(errors='replace').strip().splitlines()[-1]}")
