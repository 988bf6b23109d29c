"""Whom the site's parts run as where root starts them, and what is theirs."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

from launch.place import OWN, ROOT, say

NAME = "giusto"  # of the site's own user, where root starts it and owns the checkout
RUN = OWN / "run"  # what the parts tell each other: secrets, signs of life
SPOOL = RUN / "spool"  # files while they are worked with
RECORDINGS = OWN / "recordings"


def site_user() -> pwd.struct_passwd | None:
    """Return whom root's parts run as, or None for the one who asks.

    The owner of the checkout, where that is not root; else a user of the site's own, made where it is missing; else
    nobody. Whoever it is must be able to read the checkout.
    """
    if os.geteuid() != 0:
        return None
    owner = (ROOT / "giusto").stat().st_uid
    user = _named(owner) if owner else _called(NAME) or _called("nobody")
    return user if user and _closed_to(user) is None else None


def why_root() -> str:
    """Return why the site's parts would run as root, as a sentence; nothing where they don't."""
    if os.geteuid() != 0 or site_user():
        return ""
    user = _called(NAME) or _called("nobody")
    closed = _closed_to(user) if user else None
    where = f"no other user may enter {closed}" if closed else "no other user is here"
    return f"{where}: put this checkout where everybody may pass, such as /srv/giusto"


def _closed_to(user: pwd.struct_passwd) -> Path | None:
    """Return what of the checkout a user may not read, or pass through; None where all is open."""
    python = Path(sys.executable).resolve()
    needed = [ROOT / "src/studio/wsgi.py", python, *(ROOT / "src/studio/wsgi.py").parents, *python.parents]
    closed = [path for path in needed if not _is_open_to(user, path)]
    return min(closed, key=lambda path: len(path.parts), default=None)


def as_site() -> dict[str, Any]:
    """Return the arguments of a process that is the site's: its user, and files for nobody else's eyes."""
    user = site_user()
    who = {"user": user.pw_uid, "group": user.pw_gid, "extra_groups": []} if user else {}
    return {**who, "umask": 0o077, "start_new_session": True, "cwd": ROOT}


def make_room() -> None:
    """Make the folders where the site's parts write, for whoever writes there and nobody else."""
    make_own_user()
    user = site_user()
    for folder in (RUN, SPOOL, RECORDINGS):
        folder.mkdir(parents=True, exist_ok=True)
        folder.chmod(0o700)
        if user:
            give(folder, user)


def empty_spool() -> None:
    """Delete what was being worked with when an earlier start was killed."""
    shutil.rmtree(SPOOL, ignore_errors=True)


def give(folder: Path, user: pwd.struct_passwd) -> None:
    """Make a folder and all below it a user's, links left alone: an earlier version ran as somebody else."""
    for path in (folder, *folder.rglob("*")):
        if not path.is_symlink() and path.stat().st_uid != user.pw_uid:
            os.chown(path, user.pw_uid, user.pw_gid)


def make_own_user() -> None:
    """Make the site's own user where root starts its own checkout for the first time."""
    if os.geteuid() != 0 or (ROOT / "giusto").stat().st_uid != 0 or _called(NAME):
        return
    if program := shutil.which("useradd"):
        say(f"making a user '{NAME}' for what reads files and sounds")
        command = [program, "--system", "--no-create-home", "--shell", "/usr/sbin/nologin", NAME]
        subprocess.run(command, capture_output=True, check=False)


def _called(name: str) -> pwd.struct_passwd | None:
    try:
        return pwd.getpwnam(name)
    except KeyError:
        return None


def _named(number: int) -> pwd.struct_passwd | None:
    try:
        return pwd.getpwuid(number)
    except KeyError:
        return None


def _is_open_to(user: pwd.struct_passwd, path: Path) -> bool:
    """Whether a user may read a file, or pass through a folder."""
    found, bits = path.stat(), 0o5 if path.is_dir() else 0o4
    if found.st_uid == user.pw_uid:
        bits <<= 6
    return found.st_mode & bits == bits
