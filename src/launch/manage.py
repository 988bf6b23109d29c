"""``./giusto manage``: a Django command with the project's database running, as the site's own user."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from typing import Any

from launch.database import database
from launch.place import ROOT, fail, say
from launch.tables import make_tables, owner_environment, site_environment
from launch.users import as_site, site_user

# What changes tables is the owner's; nothing else of the site's is.
OWNERS = ("migrate", "makemigrations", "sqlmigrate", "flush", "dbshell")
# Commands with one file, which root opens for a user who may perhaps not: how.
FILES = {"import": "rb", "export": "wb"}


def main() -> None:
    """Run the command on the database."""
    with database() as cluster:
        if cluster.unfinished.exists():  # a new database: its tables first
            make_tables(cluster)
        words = sys.argv[1:]
        if words[:1] and words[0] in OWNERS:
            environment, who = owner_environment(cluster), {}
        else:
            environment, who = site_environment(cluster), as_site()
            del who["start_new_session"], who["cwd"]  # it is the terminal's, and names files from where it was called
        code = _run(words, {**os.environ, **environment, "PYTHONPATH": str(ROOT / "src")}, who)
    sys.exit(code)


def _run(words: list[str], environment: dict[str, str], who: dict[str, Any]) -> int:
    """Run a command; where root asks, open its file for a user who may perhaps not."""
    mode = FILES.get(words[0]) if len(words) == 2 and site_user() else None
    if mode is None or words[1].startswith("-"):
        return _call(words, environment, who)
    path = Path(words[1])
    part = path if mode == "rb" else path.with_name(f".{path.name}.part")
    try:
        with part.open(mode) as file:
            handed = {"stdin" if mode == "rb" else "stdout": file}
            code = _call([words[0], "-"], environment, {**who, **handed})
        if part != path and code == 0:
            part.replace(path)
    except OSError as error:
        fail(f"{path} can't be {'read' if mode == 'rb' else 'written'}: {error.strerror}")
    finally:
        if part != path:
            part.unlink(missing_ok=True)
    return code


def _call(words: list[str], environment: dict[str, str], how: dict[str, Any]) -> int:
    command = [sys.executable, "-m", "launch.command", *words]
    try:
        return subprocess.run(command, env=environment, check=False, **how).returncode
    except KeyboardInterrupt:
        say("ended")
        return 130


if __name__ == "__main__":
    main()
