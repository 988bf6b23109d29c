"""What the machine says of itself."""

from __future__ import annotations

import os
from pathlib import Path
from zoneinfo import available_timezones

ZONEINFO = "zoneinfo/"


def machine_zone() -> str:
    """Return the machine's time zone by name; UTC where it has none that can be told by name."""
    told = (os.environ.get("TZ", "").removeprefix(":"), *_configured())
    known = available_timezones()
    return next((zone for name in told if (zone := _name(name)) in known), "UTC")


def _configured() -> list[str]:
    """Return what Debian's configuration says."""
    try:
        return [str(Path("/etc/localtime").resolve()), Path("/etc/timezone").read_text(encoding="ascii").strip()]
    except (OSError, UnicodeDecodeError):
        return [str(Path("/etc/localtime").resolve())]


def _name(text: str) -> str:
    """Return the zone that a name or a file of the zone database stands for."""
    path = str(Path(text).resolve()) if text.startswith("/") else text
    return path.rpartition(ZONEINFO)[2]
