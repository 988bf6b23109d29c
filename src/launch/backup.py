"""``./giusto backup FILE.tar``, ``backup --every day DIR``, ``restore FILE.tar``: all of it, while people play."""

from __future__ import annotations

import sys
from contextlib import suppress
from pathlib import Path

from launch import rotation, whole
from launch.database import database
from launch.place import fail, say

OF_POSTGRES = b"PGDMP"  # how a copy of the database alone begins, as earlier versions made it


def main() -> None:
    """Write a backup, or put one back."""
    if sys.argv[1:4] == ["backup", "--every", "day"] and len(sys.argv) == 5:
        with suppress(KeyboardInterrupt):
            rotation.every_day(Path(sys.argv[4]))
        return
    if len(sys.argv) != 3 or sys.argv[1] not in ("backup", "restore"):
        fail("./giusto backup FILE.tar, ./giusto backup --every day DIR, or ./giusto restore FILE.tar")
    what, path = sys.argv[1], Path(sys.argv[2])
    try:
        with database() as cluster:
            if what == "backup":
                count = whole.write(cluster, path)
                say(f"all takes, drills, settings and {count} sounds are in {path}")
                return
            with path.open("rb") as file:
                is_dump = file.read(len(OF_POSTGRES)) == OF_POSTGRES
            if is_dump:
                whole.put_back_database(cluster, path)
                say(f"the database is as it was in {path}; sounds are not in such a copy")
            else:
                whole.put_back(cluster, path)
                say(f"all is as it was in {path}")
    except OSError as error:
        fail(f"{error.filename or path}: {error.strerror}")


if __name__ == "__main__":
    main()
