"""The database for one command: that of a running ``./giusto start``, else started for it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from launch.cluster import Cluster
from launch.place import OWN, held


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
