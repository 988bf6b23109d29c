"""``./giusto manage``: a Django command with the project's database running."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager

from launch.cluster import Cluster
from launch.place import OWN, held
from launch.start import make_tables, settings_environment


def main() -> None:
    """Run the command on the database."""
    with database() as cluster:
        os.environ.update({**cluster.environment, **settings_environment()})
        from django.core.management import execute_from_command_line

        if cluster.unfinished.exists():  # a new database: its tables first
            make_tables(cluster)
        execute_from_command_line(["./giusto manage", *sys.argv[1:]])


@contextmanager
def database() -> Iterator[Cluster]:
    """Give the database: that of a running ``./giusto start``, else started for this; one command at a time."""
    OWN.mkdir(exist_ok=True)
    cluster = Cluster(OWN / "cluster")
    with held(OWN / "database.lock", "another ./giusto command uses the database: waiting until it ends"):
        cluster.port = cluster.running_port()
        if cluster.port:  # only a start leaves its server running without the lock
            yield cluster
            return
        cluster.start()
        try:
            yield cluster
        finally:
            cluster.stop()


if __name__ == "__main__":
    main()
