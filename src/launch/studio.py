"""``./giusto studio``: accounts, HTTPS, the local net; started, watched and ended as ``./giusto start`` is."""

from __future__ import annotations

import sys
import threading
from dataclasses import replace

from launch import proxy, start, this_version, web
from launch.cluster import Cluster
from launch.place import OWN, fail, held, say
from launch.tables import STUDIO, close_tables, make_tables, site_environment
from launch.users import RUN, empty_spool, make_own_user, why_root
from launch.watch import Told, watch
from launch.work import Worker

MOVED_S = 10.0  # between two looks at this machine's address


def main() -> None:
    """Start everything, watch over it, end everything."""
    owner = _owner(sys.argv[1:])
    make_own_user()
    if reason := why_root():
        fail(f"a studio never runs as root, and {reason}")
    OWN.mkdir(exist_ok=True)
    lock = start.only_one()
    proxy.program()
    door = proxy.chosen_door()
    is_announced = door.has_own_authority and proxy.can_announce()
    cluster = Cluster(OWN / "cluster")
    with held(OWN / "database.lock", "another ./giusto command uses the database: waiting until it ends"):
        stopping = start.told_to_stop()
        for file in (web.PID_FILE, proxy.SITE_SOCKET.with_suffix(".pid"), proxy.RECORDINGS_SOCKET.with_suffix(".pid")):
            web.end_orphan(file)
        empty_spool()
        cluster.start()
    with start.together(cluster) as running:
        make_tables(cluster, STUDIO)
        _see_to_owner(owner)
        this_version.settle()
        close_tables()
        environment = {
            **site_environment(cluster, STUDIO),
            "GIUSTO_HOSTS": ",".join(door.hosts),
            "GIUSTO_ADDRESS": door.first_address,
        }
        site = web.WebBehind(proxy.SITE_SOCKET, door.name, environment)
        large = web.WebBehind(proxy.RECORDINGS_SOCKET, door.name, environment, workers=1)
        caddy = proxy.Caddy(door, site.file, large.file)
        workers = [(name, Worker(name, lanes, environment)) for name, lanes in start.WORKERS.items()]
        running.parts += [("web server", site), ("web server for recordings", large), ("way in", caddy), *workers]
        announced = proxy.Announced(door) if is_announced else None
        if announced:
            running.parts.append(("name on the net", announced))
        if not stopping.is_set():
            for _, part in running.parts[1:]:
                part.start()
            lock.write(door.address)
            lock.flush()
            _tell(door, is_announced=is_announced)
            running.behind = start.catch_up(environment)
            _Follow(door, [site, large], caddy, announced, stopping).start()
        watch(running.parts, stopping, Told(RUN / "down.json"))


class _Follow(threading.Thread):
    """Follows this machine's address: where it gets another, name, way in and site do so too, and it is said."""

    def __init__(
        self,
        door: proxy.Door,
        sites: list[web.WebBehind],
        caddy: proxy.Caddy,
        announced: proxy.Announced | None,
        stopping: threading.Event,
    ) -> None:
        super().__init__(name="address", daemon=True)
        self.door, self.sites, self.caddy, self.announced = door, sites, caddy, announced
        self.stopping = stopping

    def run(self) -> None:
        """Look now and then."""
        while not self.stopping.wait(MOVED_S):
            ip = proxy.own_address()
            if ip != self.door.ip:
                self._move(replace(self.door, ip=ip))

    def _move(self, door: proxy.Door) -> None:
        say(f"this machine has another address now: {door.ip}")
        self.door = door
        for site in self.sites:
            site.environment |= {"GIUSTO_HOSTS": ",".join(door.hosts), "GIUSTO_ADDRESS": door.first_address}
            site.stop()  # whoever watches over it starts it again, with the new names
        self.caddy.move(door)
        if self.announced:
            self.announced.move(door)
        _tell(door, is_announced=self.announced is not None)


def _owner(words: list[str]) -> str:
    """Return the name of an owner who is to be made, or nothing."""
    if not words:
        return ""
    if len(words) != 2 or words[0] != "--owner" or not words[1].strip():
        fail("./giusto studio, or ./giusto studio --owner NAME the first time")
    return words[1]


def _see_to_owner(name: str) -> None:
    """Make the owner of the player of this machine; a studio without one does not open."""
    from django.core.management import CommandError, call_command

    from studio.accounts.models import Player

    owners = Player.objects.filter(role=Player.Role.OWNER, is_active=True)
    try:
        if name:
            if there := owners.exclude(username=name).first():
                fail(f"{there.username} owns this studio: who else may look after it is said on its own page, Studio")
            call_command("own", name)
        elif not owners.exists():
            fail("a studio has an owner: ./giusto studio --owner NAME makes the player of this machine one")
    except CommandError as error:
        fail(str(error))
    finally:
        if not owners.exists():
            close_tables()


def _tell(door: proxy.Door, *, is_announced: bool) -> None:
    """Say one name, one address, one code to photograph."""
    from studio.joining.pictures import code_lines

    say(f"ready at {door.address}  (Ctrl-C ends it)")
    if door.has_own_authority:
        say(f"a phone opens {door.first_address} first, and is told there how to trust this studio:")
        print(code_lines(door.first_address), file=sys.stderr, flush=True)
        if not is_announced:
            say(f"the name {door.name} is not announced on this net (no avahi): phones use the number, {door.ip}")
    if door.ip.startswith("127."):
        say("this machine is on no net: only its own browsers find it")


if __name__ == "__main__":
    main()
