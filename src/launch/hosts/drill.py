"""The drill: many hosts, each part killed in turn under players; what was acknowledged and is gone."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

from launch import packages
from launch.hosts.net import Net, can_make
from launch.hosts.parts import Balancer, Database, HostWorker, Pooler, WebHost, World
from launch.hosts.point_in_time import Copies
from launch.place import ROOT, fail, say
from launch.roles import OWNER

PLAYERS, SECONDS, KILLED_AT_S = 12, 24.0, 8.0
SURE_S = 2.5  # what somebody needs to be sure that the first database is dead
WELL_S = 240.0
FULL_S = 6.0  # how long a disk is full
SOUNDS_MB = 64
NEEDED = {"haproxy": "sbin/haproxy", "pgbouncer": "sbin/pgbouncer"}
FOR_COPIES = {"pgbackrest": "bin/pgbackrest"}


@dataclass(frozen=True, slots=True)
class KillCost:
    """What a kill cost.

    Attributes
    ----------
    killed : str
    requests, refused : int
        Of players; those that were answered with anything but yes, or not at all.
    silent_s : float
        The longest time in which nothing was acknowledged to anybody.
    well_s : float
        From the kill until a page was answered with all that it needs, what was killed started again.
    acknowledged, lost : int
        Batches; and those of them that are not in the database.
    gave_up : int
        Players that were not answered for a minute and a half.
    """

    killed: str
    requests: int
    refused: int
    silent_s: float
    well_s: float
    acknowledged: int
    lost: int
    gave_up: int


class Installation:
    """All of it.

    Parameters
    ----------
    world : World
    replicas : int
    players : int
    """

    def __init__(self, world: World, replicas: int, *, has_copies: bool, players: int) -> None:
        self.world, self.players = world, players
        self.first = Database(world, "db1")
        self.followers = [Database(world, f"db{number}") for number in range(2, 2 + replicas)]
        self.webs = [WebHost(world, "web1"), WebHost(world, "web2")]
        self.worker = HostWorker(world, "work")
        self.poolers = {host: Pooler(world, host, self.first) for host in ("web1", "web2", "work")}
        self.balancer = Balancer(world, "lb", self.webs)
        self.copies = Copies(self.first) if has_copies else None
        self.cookies = b""

    def start(self) -> None:
        """Make databases, tables and people; start everything."""
        self.first.make(self.copies.settings() if self.copies else "")
        self.first.start()
        _until(lambda: bool(self.first.ask("select 1")))
        self.first.settle(len(self.followers))
        for one in self.followers:
            one.follow(self.first)
            one.start()
        self.first.wait_for([one.host for one in self.followers])
        _until(lambda: len(self.first.ask("select 1 from pg_stat_replication")) == len(self.followers))
        owner = self.webs[0].environment(database=self.first.address, role=OWNER)
        python = [sys.executable, "-m"]
        self.world.net.run("web1", [*python, "launch.host", "migrate"], user=self.world.site, env=owner)
        for part in (*self.poolers.values(), *self.webs, self.worker, self.balancer):
            part.start()
        people = [*python, "launch.hosts.people", str(self.players)]
        environment = self.webs[0].environment()
        self.cookies = self.world.net.run("web1", people, user=self.world.site, env=environment)
        _until(self.is_well)

    def stop(self) -> None:
        """End everything, in no order: it is thrown away."""
        parts = (self.balancer, *self.webs, self.worker, *self.poolers.values(), *self.followers, self.first)
        for part in parts:
            part.kill()

    def is_well(self) -> bool:
        """Whether a page is answered through the balancer, with all that it needs."""
        words = ["curl", "-fsS", "-m", "5", "-H", "Host: giusto.example", f"http://{self._balancer}/ready/"]
        try:
            self.world.net.run("client", words)
        except OSError:
            return False
        return True

    def under_players(self, killed: str, kill: Callable[[], None], *, seconds: float) -> KillCost:
        """Kill something under players, and count."""
        say(f"{killed}: under {self.players} players")
        command = [sys.executable, "-m", "launch.hosts.players", self._balancer, str(seconds)]
        environment = {"PATH": os.environ["PATH"], "PYTHONPATH": str(ROOT / "src")}
        people = self.world.folder / "people"
        people.write_bytes(self.cookies)
        with people.open("rb") as told:
            playing = self.world.net.start("client", command, env=environment, stdin=told, stdout=subprocess.PIPE)
        time.sleep(KILLED_AT_S)
        killed_at = time.monotonic()
        kill()
        _until(self.is_well)
        well_s = time.monotonic() - killed_at
        found = json.loads(playing.communicate(timeout=seconds + 2 * WELL_S)[0])
        return self._row(killed, found, well_s)

    def web_host(self) -> None:
        """Kill a web host; after a while it is there again."""
        self.webs[0].kill()
        time.sleep(6)
        self.webs[0].start()

    def pooler(self) -> None:
        """Kill a pooler; systemd would start it a second later."""
        self.poolers["web2"].kill()
        time.sleep(1)
        self.poolers["web2"].start()

    def work(self) -> None:
        """Kill the worker; the same."""
        self.worker.kill()
        time.sleep(1)
        self.worker.start()

    def disk(self) -> None:
        """Fill the disk of sounds, and make room again."""
        filler = self.world.folder / "sounds/filler"
        with suppress(OSError), filler.open("wb", buffering=0) as file:
            while True:
                file.write(bytes(1 << 16))
        time.sleep(FULL_S)
        filler.unlink()

    def database(self) -> None:
        """Kill the first database; of two that follow it one has had its cable pulled two seconds before."""
        cut = self.followers[-1] if len(self.followers) > 1 else None
        if cut:
            self.world.net.link(cut.host, is_up=False)
            time.sleep(2)
        self.first.kill()
        if cut:
            self.world.net.link(cut.host, is_up=True)
        time.sleep(SURE_S)
        furthest = max(self.followers, key=_received)
        furthest.promote()
        rest = [one for one in self.followers if one is not furthest]
        for one in rest:
            one.turn_to(furthest)
        furthest.wait_for([one.host for one in rest])
        for pooler in self.poolers.values():
            pooler.point_to(furthest)
        self.first, self.followers = furthest, rest

    @property
    def _balancer(self) -> str:
        return self.world.net.addresses["lb"]

    def _row(self, killed: str, found: dict[str, list[list[object]]], well_s: float) -> KillCost:
        rows = self.first.ask("select take_id, number from takes_batch", "giusto")
        kept = {(str(take), number) for take, number in rows}
        told = [(str(take), number) for _, take, number in found["acknowledged"]]
        times = sorted(float(at) for at, _, _ in found["acknowledged"])  # type: ignore[arg-type]
        requests = found["requests"]
        return KillCost(
            killed,
            requests=len(requests),
            refused=sum(status != "200" for _, _, status in requests),
            silent_s=max((later - at for at, later in pairwise(times)), default=0.0),
            well_s=well_s,
            acknowledged=len(told),
            lost=sum(one not in kept for one in told),
            gave_up=int(found["gave_up"]),  # type: ignore[call-overload]
        )


@contextmanager
def installation(
    replicas: int, *, has_copies: bool = False, players: int = PLAYERS, sounds_mb: int = SOUNDS_MB
) -> Iterator[Installation]:
    """Give an installation in namespaces and a folder of its own, both thrown away."""
    for package, file in {**NEEDED, **(FOR_COPIES if has_copies else {})}.items():
        if not (Path("/usr") / file).exists():
            packages.install(package)
    folder = Path(tempfile.mkdtemp(prefix="giusto-hosts-", dir="/var/tmp"))
    folder.chmod(0o755)
    hosts = ["lb", "web1", "web2", "work", "client", "db1", *(f"db{number}" for number in range(2, 2 + replicas))]
    net = Net(hosts, f"giusto-{os.getpid()}")
    world = World(net, folder)
    (folder / "key").write_text("a key for a drill", encoding="ascii")
    for name in ("sounds", "static"):
        (folder / name).mkdir()
        if name == "sounds":  # a small disk of its own, that can be filled
            subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={sounds_mb}m", "tmpfs", folder / name], check=True)
        os.chown(folder / name, *world.site)
    made: Installation | None = None
    try:
        net.make()
        made = Installation(world, replicas, has_copies=has_copies, players=players)
        made.start()
        yield made
    finally:
        if made:
            made.stop()
        net.remove()
        subprocess.run(["umount", "-l", folder / "sounds"], check=False)
        shutil.rmtree(folder, ignore_errors=True)


def main() -> None:
    """Run the whole drill, and print its table as Markdown."""
    if not can_make():
        fail("no hosts can be made here: it needs root, ip, and leave to make network namespaces")
    with installation(replicas=2, has_copies=True) as all_of_it:
        copies = all_of_it.copies
        if copies:
            copies.begin()
        rows = [
            all_of_it.under_players("a web host", all_of_it.web_host, seconds=SECONDS),
            all_of_it.under_players("a pooler", all_of_it.pooler, seconds=SECONDS),
            all_of_it.under_players("the worker", all_of_it.work, seconds=SECONDS),
            all_of_it.under_players(f"the disk of sounds, full for {FULL_S:.0f} s", all_of_it.disk, seconds=SECONDS),
        ]
        restored = copies.back_to_a_moment() if copies else None
        rows += [
            all_of_it.under_players("the first database", all_of_it.database, seconds=SECONDS),
        ]
    print(table(rows))
    if restored:
        said = f"{restored.asked:,} rows a moment before a table was dropped, {restored.back:,} came back"
        print(f"\nBack to a moment by pgBackRest: {said}, in {restored.seconds:.1f} s.")
    sys.exit(any(row.lost for row in rows) or (restored is not None and restored.back != restored.asked))


def table(rows: list[KillCost]) -> str:
    """Return what was found as a table in Markdown."""
    lines = ["| killed | requests | refused | nothing acknowledged for | well after | acknowledged | of these lost |"]
    lines += ["|---|---|---|---|---|---|---|"]
    for row in rows:
        seconds = f"{row.silent_s:.1f} s | {row.well_s:.1f} s"
        figures = f"{row.requests:,} | {row.refused:,} | {seconds} | {row.acknowledged:,} | {row.lost:,}"
        lines.append(f"| {row.killed} | {figures} |")
    return "\n".join(lines)


def _received(database: Database) -> int:
    """Return how far a follower has come, in bytes."""
    ((at,),) = database.ask("select pg_wal_lsn_diff(coalesce(pg_last_wal_receive_lsn(), '0/0'), '0/0')::bigint")
    return int(str(at))


def _until(is_so: Callable[[], bool]) -> None:
    deadline, last = time.monotonic() + WELL_S, ""
    while time.monotonic() < deadline:
        try:
            if is_so():
                return
        except Exception as error:
            last = str(error)
        time.sleep(0.3)
    raise TimeoutError(f"not well within {WELL_S:.0f} s: {last}")


if __name__ == "__main__":
    main()
