"""``./giusto backup FILE`` and ``./giusto restore FILE``: all that is kept, as one file of PostgreSQL's own."""

from __future__ import annotations

import sys
from pathlib import Path

from launch.copies import dump, put_back
from launch.database import database
from launch.place import fail, say


def main() -> None:
    """Write a backup, or put one back."""
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


if __name__ == "__main__":
    main()
