"""``./giusto backup --every day DIR``: a copy each day, seven, four and twelve kept; the newest tried each week."""

from __future__ import annotations

import json
import os
import tempfile
import time
from collections.abc import Iterable
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

from launch import whole
from launch.cluster import Cluster, server_user
from launch.database import database
from launch.place import fail, say, write_whole
from launch.users import RUN, make_room

PREFIX, SUFFIX = "giusto-", ".tar"
DAYS, WEEKS, MONTHS = 7, 4, 12
TRIED_EVERY = timedelta(days=7)
LOOK_S = 600.0
TOLD = RUN / "copies.json"  # for the owner's page
QUICK = ("fsync=off", "synchronous_commit=off", "full_page_writes=off")


def every_day(folder: Path, *, once: bool = False) -> None:
    """Make a copy each day until told to stop; try the newest once a week; throw away what is old.

    A day without a copy is told and tried again; so is a copy that does not come back.
    """
    if not folder.is_dir():
        fail(f"{folder} is no folder: make it first, on another disk than the data")
    while True:
        try:
            _look(folder, datetime.now(UTC))
        except (OSError, SystemExit) as error:
            say(f"no copy was made today: {error}")
            _tell({"problem": str(error)})
        if once:
            return
        time.sleep(LOOK_S)


def _look(folder: Path, now: datetime) -> None:
    """Do what is due by now."""
    copies = copies_in(folder)
    if now.date() not in copies:
        path = folder / f"{PREFIX}{now.date().isoformat()}{SUFFIX}"
        with database() as cluster:
            count = whole.write(cluster, path)
        say(f"all of today is in {path}, with {count} sounds")
        copies[now.date()] = path
        for day in copies.keys() - kept(copies):
            copies.pop(day).unlink()
        _tell({"made": now.isoformat(), "copies": len(copies), "problem": ""})
    tried = told().get("tried", "")
    if not tried or now - datetime.fromisoformat(tried) > TRIED_EVERY:
        newest = copies[max(copies)]
        rows = tried_back(newest)
        say(f"{newest} came back whole into a scratch database: {sum(rows.values()):,} rows of {len(rows)} tables")
        _tell({"tried": now.isoformat(), "rows": sum(rows.values())})


def tried_back(path: Path) -> dict[str, int]:
    """Restore a copy into a scratch cluster, and count: each table has the rows that it had.

    Raises
    ------
    OSError
        Where it does not come back as it was.
    """
    make_room()
    with tempfile.TemporaryDirectory(prefix="giusto-tried-") as name:
        folder = Path(name)
        if user := server_user(None):
            os.chown(folder, user.pw_uid, user.pw_gid)
        scratch = Cluster(folder / "cluster", settings=QUICK, safe=False)
        scratch.start()
        try:
            rows, told = whole.rows_of(scratch, path, folder)
        finally:
            scratch.stop()
    if other := [table for table in told.keys() | rows.keys() if told.get(table) != rows.get(table)]:
        table = min(other)
        raise OSError(f"{path}: {table} has {rows.get(table)} rows, and had {told.get(table)} when it was copied")
    return rows


def copies_in(folder: Path) -> dict[date, Path]:
    """Return the copies that are there, by their day."""
    found = {}
    for path in folder.glob(f"{PREFIX}*{SUFFIX}"):
        try:
            found[date.fromisoformat(path.name.removeprefix(PREFIX).removesuffix(SUFFIX))] = path
        except ValueError:
            continue  # somebody else's
    return found


def kept(days: Iterable[date]) -> set[date]:
    """Return the days whose copies stay: the newest seven, and the newest of four weeks and of twelve months.

    Examples
    --------
    >>> days = [date(2026, 11, 30) - timedelta(days=n) for n in range(40)]
    >>> len(kept(days)), min(kept(days)).isoformat()
    (10, '2026-10-31')
    """
    newest = sorted(days, reverse=True)
    weeks: dict[tuple[int, int], date] = {}
    months: dict[tuple[int, int], date] = {}
    for day in newest:
        weeks.setdefault(day.isocalendar()[:2], day)
        months.setdefault((day.year, day.month), day)
    return {*newest[:DAYS], *sorted(weeks.values())[-WEEKS:], *sorted(months.values())[-MONTHS:]}


def told() -> dict[str, Any]:
    """Return what was said of copies last."""
    try:
        found: dict[str, Any] = json.loads(TOLD.read_text(encoding="ascii"))
    except (OSError, ValueError):
        return {}
    return found


def _tell(words: dict[str, Any]) -> None:
    """Write down for the owner's page what came of it."""
    make_room()
    write_whole(TOLD, json.dumps(told() | words))
    TOLD.chmod(0o644)
