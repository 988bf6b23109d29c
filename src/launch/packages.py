"""Debian's packages: installed where the right to is there, named in one line where it isn't."""

from __future__ import annotations

import os
import shutil
import subprocess

from launch.place import LOG, fail, say


def install(*packages: str) -> None:
    """Install Debian packages, or stop with the line that says how."""
    names = " ".join(packages)
    command = f"apt-get install --no-install-recommends {names}"
    if not (apt := shutil.which("apt-get")):
        fail(f"{names} is needed, and this is no Debian: install it by your system's own way")
    before = [] if os.geteuid() == 0 else _sudo()
    if before is None:
        fail(f"Debian's package {names} is needed: ask an administrator for '{command}'")
    say(f"installing Debian's package {names} (once)")
    LOG.mkdir(parents=True, exist_ok=True)
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    with (LOG / "packages.log").open("ab") as log:
        for arguments in (["update", "-q"], ["install", "-yq", "--no-install-recommends", *packages]):
            done = subprocess.run([*before, apt, *arguments], stdout=log, stderr=log, env=environment, check=False)
    if done.returncode:
        fail(f"'{command}' failed: see {LOG / 'packages.log'}")


def stop_service(service: str) -> None:
    """End what Debian started with a package, for good, where systemd runs here."""
    if not (systemctl := shutil.which("systemctl")):
        return
    before = [] if os.geteuid() == 0 else _sudo() or []
    subprocess.run([*before, systemctl, "disable", "--now", service], capture_output=True, check=False)


def _sudo() -> list[str] | None:
    sudo = shutil.which("sudo")
    allowed = sudo and subprocess.run([sudo, "-v"], stderr=subprocess.DEVNULL, check=False).returncode == 0
    return [sudo] if sudo and allowed else None
