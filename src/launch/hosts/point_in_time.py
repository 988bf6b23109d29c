"""Back to a moment: a copy and each piece of log by pgBackRest, restored beside the database, and counted."""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path

from launch.hosts.parts import PORT, Database
from launch.place import ROOT

STANZA, BESIDE = "giusto", 5999
# What stands in deploy/pgbackrest.conf for a store of its own is a folder here.
OF_THE_STORE = ("repo1-s3", "repo1-type", "repo1-path", "repo1-cipher", "pg1-", "#", "[")


@dataclass(frozen=True, slots=True)
class Restored:
    """What came back: rows at the moment that was asked for, rows that came back, rows that were left meanwhile."""

    asked: int
    back: int
    left: int
    seconds: float


class Copies:
    """pgBackRest for one database, its copies in a folder of the drill's."""

    def __init__(self, database: Database) -> None:
        self.database, self.folder = database, database.folder / "copies"
        self.config = self.folder / "pgbackrest.conf"

    def settings(self) -> str:
        """Return what the database's configuration says of it, before it is started for the first time."""
        push = f"pgbackrest --config={self.config} --stanza={STANZA} archive-push %p"
        return f"archive_mode = on\narchive_command = '{push}'\n"

    def begin(self) -> None:
        """Make the first copy; from then on each piece of log is put away."""
        self.folder.mkdir(exist_ok=True)
        kept = (ROOT / "deploy/pgbackrest/pgbackrest.conf").read_text(encoding="utf-8").splitlines()
        lines = ["[global]", *(line for line in kept if line and not line.startswith(OF_THE_STORE))]
        lines += [f"repo1-path={self.folder}/repository", f"log-path={self.folder}", f"lock-path={self.folder}"]
        lines += [f"[{STANZA}]", f"pg1-path={self.database.data}", f"pg1-port={PORT}"]
        lines += [f"pg1-socket-path={self.database.socket}", "pg1-user=postgres"]
        self.config.write_text("\n".join([*lines, ""]), encoding="utf-8")
        self.database.own(self.folder)
        self._run("stanza-create")
        self._run("backup", "--type=full")

    def back_to_a_moment(self) -> Restored:
        """Lose a table, and bring back what it was a moment before."""
        ask = self.database.ask
        ask("create table drilled as select take_id, number from takes_batch", "giusto")
        asked = _count(ask("select count(*) from drilled", "giusto"))
        ((moment,),) = ask("select now()")
        time.sleep(1.5)
        ask("drop table drilled", "giusto")
        ask("select pg_switch_wal()")
        began, beside = time.monotonic(), self.folder / "beside"
        beside.mkdir(mode=0o700)
        self.database.own(beside)
        options = (f"--pg1-path={beside}", "--type=time", f"--target={moment}", "--target-action=promote")
        self._run("restore", *options)
        back = self.database.beside(beside, BESIDE, "select count(*) from drilled", "giusto")
        left = len(ask("select 1 from pg_class where relname = 'drilled'", "giusto"))
        return Restored(asked, _count(back), left, time.monotonic() - began)

    def _run(self, command: str, *options: str) -> None:
        words = ["pgbackrest", f"--config={self.config}", f"--stanza={STANZA}", *options, command]
        world = self.database.world
        world.net.run(self.database.host, words, user=world.postgres, cwd=str(Path("/")))


def _count(rows: list[tuple[object, ...]]) -> int:
    return int(str(rows[0][0]))
