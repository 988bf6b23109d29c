"""Copies of the database as one file of PostgreSQL's own, and putting one back."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg
from psycopg import sql

from launch.cluster import DATABASE, HOST, USER, Cluster
from launch.place import fail

RESTORED = f"{DATABASE}_restored"
TABLES = "select relname from pg_class where relkind = 'r' and relnamespace = 'public'::regnamespace"


def dump(cluster: Cluster, path: Path) -> dict[str, int]:
    """Write all that the database holds to a file, whole or not at all; return how many rows each table had then."""
    making = path.with_name(f"{path.name}.part")
    with cluster.connection(DATABASE) as connection, connection.transaction():
        connection.execute("set transaction isolation level repeatable read read only")
        rows = counts(connection)
        (snapshot,) = connection.execute("select pg_export_snapshot()").fetchone() or ("",)
        _run(cluster, "pg_dump", "-d", DATABASE, "--format=custom", f"--snapshot={snapshot}", f"--file={making}")
    making.replace(path)
    return rows


def counts(connection: psycopg.Connection) -> dict[str, int]:
    """Return how many rows each table has."""
    found = {}
    for (table,) in connection.execute(TABLES).fetchall():
        count = sql.SQL("select count(*) from {}").format(sql.Identifier(table))
        found[table] = int(connection.execute(count).fetchone()[0])  # type: ignore[index]  # it has one row
    return found


@contextmanager
def restored(cluster: Cluster, path: Path) -> Iterator[psycopg.Connection]:
    """Restore a copy beside the database, which gives way to it when the block ends well: whole or not at all.

    Yields
    ------
    psycopg.Connection
        To the restored one, before it takes the other's place.
    """
    with cluster.connection("postgres") as server:
        server.execute(f"drop database if exists {RESTORED} with (force)")
        server.execute(f"create database {RESTORED}")
        try:
            options = ("--no-owner", "--no-privileges", "--exit-on-error")
            _run(cluster, "pg_restore", "-d", RESTORED, *options, str(path))
            with cluster.connection(RESTORED) as connection:
                yield connection
            server.execute(f"drop database {DATABASE} with (force)")
            server.execute(f"alter database {RESTORED} rename to {DATABASE}")
        finally:
            server.execute(f"drop database if exists {RESTORED} with (force)")


def _run(cluster: Cluster, program: str, *options: str) -> None:
    where = ("-h", HOST, "-p", str(cluster.port), "-U", USER)
    environment = {**os.environ, "PGPASSWORD": cluster.environment["GIUSTO_DB_PASSWORD"]}
    command: list[str | Path] = [cluster.programs / program, *where, *options]
    done = subprocess.run(command, env=environment, capture_output=True, check=False, umask=0o077)
    if done.returncode:
        fail(f"{program} failed: {done.stderr.decode(errors='replace').strip().splitlines()[-1]}")
