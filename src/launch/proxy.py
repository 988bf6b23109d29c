"""The door of a studio to its net: Debian's Caddy with an authority of its own, the page of trust, the name announced.

Caddy runs as the site's own user, never as root; where it may have the usual ports it has that one right and no other.
"""

from __future__ import annotations

import html
import os
import shutil
import signal
import socket
import ssl
import subprocess
import time
from dataclasses import dataclass
from pathlib import Path
from string import Template
from typing import Any

from launch import packages
from launch.place import LOG, OWN, fail, log_of, write_whole
from launch.users import RUN, as_site, give, site_user

FOLDER = OWN / "caddy"
AUTHORITY = "pki/authorities/local"  # below it: Caddy's own
TEMPLATES = Path(__file__).parent
NAME = "giusto.local"
LARGEST = "64MB"  # as the site takes at once; recordings go another way
PORTS, HIGH_PORTS = (443, 80), (8443, 8080)
PATIENCE_S = 30.0
SOMEWHERE = ("192.0.2.1", 9)  # nothing is sent there: the way to it is asked for (RFC 5737)


@dataclass(frozen=True)
class Door:
    """Where a studio is found.

    Attributes
    ----------
    name : str
        Its name on the net.
    ip : str
        This machine's address on it.
    https, http : int
        Ports: of the site, and of the page of trust.
    certificate : tuple of str
        Files of a public certificate and its key; none for Caddy's own authority.
    """

    name: str
    ip: str
    https: int
    http: int
    certificate: tuple[str, ...] = ()

    @property
    def has_own_authority(self) -> bool:
        """Whether phones have to be told whom to trust."""
        return not self.certificate and self.name.endswith(".local")

    @property
    def address(self) -> str:
        """Where a browser finds the site."""
        return f"https://{self.name}{'' if self.https == PORTS[0] else f':{self.https}'}/"

    @property
    def first_address(self) -> str:
        """What a phone opens first: the page of trust where there is one, by number, since older ones know no names."""
        if not self.has_own_authority:
            return self.address
        return f"http://{self.ip}{'' if self.http == PORTS[1] else f':{self.http}'}/"

    @property
    def hosts(self) -> list[str]:
        """What the site answers to."""
        return list(dict.fromkeys([self.name, self.ip]))


class Caddy:
    """The Caddy process before the site's sockets.

    Parameters
    ----------
    door : Door
    site, recordings : Path
        The sockets: of pages, and of what is large and takes its time.
    folder : Path
        Where its configuration, its authority and the page of trust lie.
    """

    def __init__(self, door: Door, site: Path, recordings: Path, folder: Path = FOLDER) -> None:
        self.door, self.site, self.recordings, self.folder = door, site, recordings, folder
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it and wait until it takes connections.

        Raises
        ------
        OSError
            Where it ends.
        """
        self._make_folder()
        command = [*_bound_low(self.door), program(), "run", "--config", str(self.folder / "Caddyfile"), "--adapter"]
        with log_of("caddy") as log:
            self.process = subprocess.Popen(
                [*command, "caddyfile"], stdout=log, stderr=log, env=self._environment(), **_as_site_low(self.door)
            )
        deadline = time.monotonic() + PATIENCE_S
        while self.process.poll() is None and time.monotonic() < deadline:
            if self.lives() and self._has_certificate():
                return
            time.sleep(0.1)
        self.stop()
        raise OSError(f"the way in did not open on ports {self.door.https} and {self.door.http}: see {LOG}/caddy.log")

    def move(self, door: Door) -> None:
        """Be found elsewhere from now on."""
        self.stop()
        self.door = door
        self.start()

    def lives(self) -> bool:
        """Whether it takes a connection."""
        try:
            socket.create_connection((self.door.ip, self.door.https), timeout=5).close()
        except OSError:
            return False
        return True

    def stop(self) -> None:
        """End it, after the requests under way."""
        if self.process and self.process.poll() is None:
            self.process.send_signal(signal.SIGTERM)
            try:
                self.process.wait(timeout=10)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()

    def _has_certificate(self) -> bool:
        """Put the authority's own certificate, made with the first start, where the page of trust gives it away."""
        if not self.door.has_own_authority:
            return True
        made = self.folder / AUTHORITY / "root.crt"
        if not made.exists():
            return False
        given = self.folder / "open/giusto-ca.crt"
        shutil.copyfile(made, given)
        given.chmod(0o644)
        return self._shakes_hands(made)

    def _shakes_hands(self, authority: Path) -> bool:
        """Whether it answers by its number with a certificate of its authority, which comes a moment later."""
        trust = ssl.create_default_context(cafile=str(authority))
        try:
            with socket.create_connection((self.door.ip, self.door.https), timeout=5) as plain:
                trust.wrap_socket(plain, server_hostname=self.door.ip).close()
        except OSError:  # ssl.SSLError is one
            return False
        return True

    def _make_folder(self) -> None:
        """Write what Caddy reads, and the page of trust, for the site's user."""
        opened = self.folder / "open"
        opened.mkdir(parents=True, exist_ok=True)
        for folder in (self.folder, opened):
            folder.chmod(0o700)
        write_whole(self.folder / "Caddyfile", caddyfile(self.door, self.site, self.recordings, self.folder))
        (opened / "index.html").write_text(page_of_trust(self.door), encoding="utf-8")
        if user := site_user():
            give(self.folder, user)

    def _environment(self) -> dict[str, str]:
        """Return what it is told: where its own files lie, and nothing of the site's."""
        own = str(self.folder)
        return {"PATH": os.environ.get("PATH", "/usr/bin"), "HOME": own, "XDG_DATA_HOME": own, "XDG_CONFIG_HOME": own}


class Announced:
    """The name, told to the net by avahi as long as it runs; where it is not there, phones use the number."""

    def __init__(self, door: Door) -> None:
        self.door = door
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Announce the name."""
        command = ["avahi-publish", "-a", "-R", self.door.name, self.door.ip]
        with log_of("avahi") as log:
            self.process = subprocess.Popen(command, stdout=log, stderr=log, **as_site())

    def move(self, door: Door) -> None:
        """Announce another address."""
        self.stop()
        self.door = door
        self.start()

    def lives(self) -> None:
        """Not asked: it ends where it can't go on."""

    def stop(self) -> None:
        """Announce it no more."""
        if self.process and self.process.poll() is None:
            self.process.terminate()
            self.process.wait()


def program() -> str:
    """Return Caddy's program, Debian's, installed where it is missing."""
    if not shutil.which("caddy"):
        packages.install("caddy")
        packages.stop_service("caddy")  # Debian starts it with a page of its own, on the ports that are ours now
    return shutil.which("caddy") or fail("Debian's package caddy is there, but its program is not")


def can_announce() -> bool:
    """Whether names can be told to the net here: avahi is installed, and its own part runs."""
    if not shutil.which("avahi-publish"):
        packages.install("avahi-utils")  # and the daemon with it
    daemon = shutil.which("avahi-daemon", path=f"{os.environ.get('PATH', '')}:/usr/sbin")
    return daemon is not None and subprocess.run([daemon, "--check"], capture_output=True, check=False).returncode == 0


def own_address() -> str:
    """Return this machine's address on its net; loopback where it has none."""
    if chosen := os.environ.get("GIUSTO_IP"):
        return chosen
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(SOMEWHERE)
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def chosen_door() -> Door:
    """Return where the studio is to be found: ``GIUSTO_NAME``, ``GIUSTO_CERTIFICATE``, ``GIUSTO_IP``."""
    certificate = tuple(os.environ.get("GIUSTO_CERTIFICATE", "").split())
    if certificate and (len(certificate) != 2 or not all(Path(file).is_file() for file in certificate)):
        fail("GIUSTO_CERTIFICATE names no two files: the certificate with its chain, then its key")
    https, http = PORTS if may_have_low_ports() else HIGH_PORTS
    return Door(os.environ.get("GIUSTO_NAME", NAME), own_address(), https, http, certificate)


def may_have_low_ports() -> bool:
    """Whether Caddy may listen on the ports that browsers ask for by themselves."""
    if os.geteuid() == 0:
        return True
    first = Path("/proc/sys/net/ipv4/ip_unprivileged_port_start")
    return first.exists() and int(first.read_text(encoding="ascii")) <= min(PORTS)


def caddyfile(door: Door, site: Path, recordings: Path, folder: Path) -> str:
    """Return Caddy's configuration.

    Headers end within ten seconds. Bodies have ten minutes, and what fits 2 MB is taken in whole before the site sees
    any of it, so that nobody who stops in the middle holds up a page; recordings have processes of their own. Who asks
    is told to the site by ``X-Real-IP``, ours alone.
    """
    names = ", ".join(f"https://{host}:{door.https}" for host in door.hosts)
    own = f"tls {' '.join(door.certificate)}" if door.certificate else "tls internal" if door.has_own_authority else ""
    said = {
        "folder": folder,
        "ip": door.ip,
        "names": names,
        "tls": own,
        "site": site,
        "recordings": recordings,
        "largest": LARGEST,
        "local": "local_certs" if door.has_own_authority else "",
        "trust": _trust_site(door, folder / "open") if door.has_own_authority else "",
    }
    return Template((TEMPLATES / "Caddyfile").read_text(encoding="utf-8")).substitute(said)


def page_of_trust(door: Door) -> str:
    """Return the page that a phone sees first: what to do so that it trusts this studio, and how to undo it."""
    text = (TEMPLATES / "trust.html").read_text(encoding="utf-8")
    by_number = f"https://{door.ip}{'' if door.https == PORTS[0] else f':{door.https}'}/"
    return Template(text).substitute(address=html.escape(door.address), number=html.escape(by_number))


def _trust_site(door: Door, opened: Path) -> str:
    text = (TEMPLATES / "Caddyfile.trust").read_text(encoding="utf-8")
    return Template(text).substitute(http=door.http, open=opened)


def _bound_low(door: Door) -> list[str]:
    """Return what gives a process the one right that it needs, where root starts it for the usual ports."""
    user = site_user()
    if user is None or min(door.https, door.http) >= 1024:
        return []
    who = ["--reuid", str(user.pw_uid), "--regid", str(user.pw_gid), "--clear-groups"]
    return ["setpriv", *who, "--inh-caps", "+net_bind_service", "--ambient-caps", "+net_bind_service"]


def _as_site_low(door: Door) -> dict[str, Any]:
    """Return the arguments of its process: setpriv changes the user itself, after it gave the right."""
    how = as_site()
    if _bound_low(door):
        for name in ("user", "group", "extra_groups"):
            how.pop(name, None)
    return how


SITE_SOCKET, RECORDINGS_SOCKET = RUN / "web.sock", RUN / "recordings.sock"
