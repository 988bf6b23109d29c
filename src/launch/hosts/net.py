"""Hosts as network namespaces on one bridge, which lies in a namespace of its own: nothing touches the real net."""

from __future__ import annotations

import os
import shutil
import subprocess
from collections.abc import Sequence
from typing import Any

NET = "10.78.0"
FIRST = 10


class Net:
    """Some hosts, each with an address; gone again with ``remove``.

    Parameters
    ----------
    names : sequence of str
    mark : str
        Before each name: two drills do not meet.
    """

    def __init__(self, names: Sequence[str], mark: str) -> None:
        self.mark = mark
        self.addresses = {name: f"{NET}.{number}" for number, name in enumerate(names, start=FIRST)}

    def make(self) -> None:
        """Make the hosts.

        Raises
        ------
        OSError
            Where this machine lets nobody make any.
        """
        switch = self.space("net")
        _ip("netns", "add", switch)
        _ip("-n", switch, "link", "add", "bridge", "type", "bridge")
        _ip("-n", switch, "link", "set", "bridge", "up")
        for name, address in self.addresses.items():
            space = self.space(name)
            _ip("netns", "add", space)
            _ip("-n", space, "link", "set", "lo", "up")
            _ip("link", "add", "eth0", "netns", space, "type", "veth", "peer", "name", f"to-{name}", "netns", switch)
            _ip("-n", space, "addr", "add", f"{address}/24", "dev", "eth0")
            _ip("-n", space, "link", "set", "eth0", "up")
            _ip("-n", switch, "link", "set", f"to-{name}", "master", "bridge")
            self.link(name, is_up=True)

    def link(self, name: str, *, is_up: bool) -> None:
        """Plug a host's cable in, or pull it out."""
        _ip("-n", self.space("net"), "link", "set", f"to-{name}", "up" if is_up else "down")

    def remove(self) -> None:
        """Take all of it away."""
        for name in ("net", *self.addresses):
            subprocess.run(["ip", "netns", "del", self.space(name)], capture_output=True, check=False)

    def space(self, name: str) -> str:
        """Return the name of a host's namespace."""
        return f"{self.mark}-{name}"

    def start(
        self, name: str, command: Sequence[str], *, user: tuple[int, int] | None = None, **how: Any
    ) -> subprocess.Popen[bytes]:
        """Start a process on a host, as a user."""
        return subprocess.Popen([*self._on(name, user), *command], start_new_session=True, **how)

    def run(self, name: str, command: Sequence[str], *, user: tuple[int, int] | None = None, **how: Any) -> bytes:
        """Run a command on a host to its end; OSError with what it said where it fails."""
        done = subprocess.run([*self._on(name, user), *command], capture_output=True, check=False, **how)
        if done.returncode:
            raise OSError(f"{command[0]} on {name}: {done.stderr.decode(errors='replace').strip()[-2000:]}")
        return bytes(done.stdout)

    def _on(self, name: str, user: tuple[int, int] | None) -> list[str]:
        who = ["setpriv", "--reuid", str(user[0]), "--regid", str(user[1]), "--clear-groups"] if user else []
        return ["ip", "netns", "exec", self.space(name), *who]


def can_make() -> bool:
    """Whether this machine lets one make hosts of it."""
    if os.geteuid() != 0 or not shutil.which("ip"):
        return False
    net = Net(["a"], f"giusto-try-{os.getpid()}")
    try:
        net.make()
    except OSError:
        return False
    finally:
        net.remove()
    return True


def _ip(*words: str) -> None:
    done = subprocess.run(["ip", *words], capture_output=True, check=False)
    if done.returncode:
        raise OSError(f"ip {' '.join(words)}: {done.stderr.decode(errors='replace').strip()}")
