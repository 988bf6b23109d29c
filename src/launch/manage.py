"""``./giusto manage``: a Django command with the project's database running."""

from __future__ import annotations

import os
import sys

from launch.cluster import Cluster
from launch.place import OWN
from launch.start import settings_environment


def main() -> None:
    """Start the database where it isn't running, and run the command."""
    cluster = Cluster(OWN / "cluster")
    running = cluster.running_port()
    if running:
        cluster.port = running
    else:
        cluster.start()
    try:
        os.environ.update({**cluster.environment, **settings_environment()})
        from django.core.management import execute_from_command_line

        execute_from_command_line(["./giusto manage", *sys.argv[1:]])
    finally:
        if not running:
            cluster.stop()


if __name__ == "__main__":
    main()
