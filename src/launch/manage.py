"""``./giusto manage``: a Django command with the project's database running."""

from __future__ import annotations

import os
import sys

from launch.database import database
from launch.tables import make_tables, settings_environment


def main() -> None:
    """Run the command on the database."""
    with database() as cluster:
        os.environ.update({**cluster.environment, **settings_environment()})
        from django.core.management import execute_from_command_line

        if cluster.unfinished.exists():  # a new database: its tables first
            make_tables(cluster)
        execute_from_command_line(["./giusto manage", *sys.argv[1:]])


if __name__ == "__main__":
    main()
