"""``./giusto host web|worker|migrate|manage``: one process among many; all that it knows is in its environment.

Nothing is made by itself: no database, no key, no user, no folder. What is missing is refused in one line.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import NoReturn

from launch import this_version
from launch.place import ROOT, fail, say
from launch.web import OPTIONS

SETTINGS = "studio.settings.host"
NEEDED = {
    "GIUSTO_DB_HOST": "where PostgreSQL, or the pooler before it, is",
    "GIUSTO_DB_PORT": "its port",
    "GIUSTO_DB_NAME": "the database",
    "GIUSTO_DB_USER": "the role: the site's own for web and worker, the owner's for migrate",
    "GIUSTO_DB_PASSWORD_FILE": "a file with the role's password",
    "GIUSTO_SECRET_KEY_FILE": "a file with the key that the site signs with, the same on all hosts",
    "GIUSTO_HOSTS": "the names that the site answers to, with commas",
    "GIUSTO_STORAGE": "files:/a/folder/that/all/hosts/share, or s3:BUCKET",
    "GIUSTO_RUN": "a folder for this host's own signs and figures",
    "GIUSTO_STATIC": "a folder for the files that ship, filled by migrate",
}
DIRECT = {
    "GIUSTO_DB_DIRECT_HOST": "PostgreSQL itself, past the pooler: for locks",
    "GIUSTO_DB_DIRECT_PORT": "its port",
}
BIND = "GIUSTO_BIND"  # of web: unix:/a/socket, or HOST:PORT behind a proxy


def main() -> None:
    """Run one process, in place of this one."""
    words = sys.argv[1:]
    if not words or words[0] not in COMMANDS or (len(words) > 1) is not (words[0] == "manage"):
        fail(f"./giusto host {'|'.join(COMMANDS)} (manage with a command of Django's)")
    if missing := missing_in(os.environ):
        told = "; ".join(f"{name}: {what}" for name, what in missing)
        fail(f"missing: {told} (docs/operations.md)")
    os.environ |= {"DJANGO_SETTINGS_MODULE": SETTINGS, "PYTHONPATH": str(ROOT / "src")}
    os.chdir(ROOT)
    COMMANDS[words[0]]()


def missing_in(environment: Mapping[str, str]) -> list[tuple[str, str]]:
    """Return what an environment lacks, or has and is not there: names, and what each is for."""
    needed = NEEDED | (DIRECT if environment.get("GIUSTO_DB_POOLER") == "transaction" else {})
    found = [(name, what) for name, what in needed.items() if not environment.get(name)]
    given = {name: value for name, value in environment.items() if value}
    files = ("GIUSTO_DB_PASSWORD_FILE", "GIUSTO_SECRET_KEY_FILE", "GIUSTO_SECRET_KEYS_BEFORE_FILE")
    folders = ("GIUSTO_RUN", "GIUSTO_STATIC")
    found += [
        (name, f"{given[name]} can't be read")
        for name in files
        if name in given and not os.access(given[name], os.R_OK)
    ]
    found += [
        (name, f"{given[name]} is no folder") for name in folders if name in given and not Path(given[name]).is_dir()
    ]
    kind, _, where = environment.get("GIUSTO_STORAGE", "").partition(":")
    if environment.get("GIUSTO_STORAGE") and (kind not in ("files", "s3") or not where):
        found.append(("GIUSTO_STORAGE", NEEDED["GIUSTO_STORAGE"]))
    elif kind == "files" and not Path(where).is_dir():  # a share that is not mounted, say
        found.append(("GIUSTO_STORAGE", f"{where} is no folder"))
    return found


def web() -> NoReturn:
    """Serve pages, behind a proxy."""
    bind = os.environ.get(BIND) or f"unix:{os.environ['GIUSTO_RUN']}/web.sock"
    figures = Path(os.environ["GIUSTO_RUN"]) / "figures"
    figures.mkdir(mode=0o700, exist_ok=True)
    for old in figures.glob("*.db"):  # of processes that are gone
        old.unlink()
    os.environ["PROMETHEUS_MULTIPROC_DIR"] = str(figures)
    workers = os.environ.get("GIUSTO_WEB_WORKERS", "2")
    log = ("--logger-class", "launch.server.LinesLog")
    _replaced("gunicorn", "studio.wsgi", "--bind", bind, "--workers", workers, *log, *OPTIONS)


def worker() -> NoReturn:
    """Hear and read what waits; a sign of life is written where a watcher looks."""
    sign = f"{os.environ['GIUSTO_RUN']}/worker.alive"
    lanes = os.environ.get("GIUSTO_LANES", "now,default,long")
    _replaced("django", "work", "--lanes", lanes, "--sign", sign)


def migrate() -> None:
    """Bring tables and shipped files to this version: on one host, before the others, as the tables' owner."""
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=1, interactive=False)
    call_command("createcachetable", verbosity=0)
    this_version.settle()
    say("tables and files are of this version")


def manage() -> NoReturn:
    """Run a command of Django's, as the role that is named."""
    _replaced("django", *sys.argv[2:])


COMMANDS: dict[str, Callable[[], object]] = {"web": web, "worker": worker, "migrate": migrate, "manage": manage}


def _replaced(module: str, *words: str) -> NoReturn:
    os.execv(sys.executable, [sys.executable, "-m", module, *words])  # noqa: S606 - a program of ours


if __name__ == "__main__":
    main()
