"""What a process of the site's must know and nobody else: from a file for its eyes alone, else its environment."""

from __future__ import annotations

import json
import os
from functools import cache
from pathlib import Path


def secret(name: str) -> str:
    """Return a secret, empty where there is none.

    ``GIUSTO_SECRETS`` names a file with a JSON object, ``NAME_FILE`` one with this secret alone: other processes can
    often read an environment.
    """
    if file := os.environ.get("GIUSTO_SECRETS", ""):
        return _in_file(file).get(name, "")
    if file := os.environ.get(f"{name}_FILE", ""):
        return Path(file).read_text(encoding="utf-8").strip()
    return os.environ.get(name, "")


@cache
def _in_file(file: str) -> dict[str, str]:
    found: dict[str, str] = json.loads(Path(file).read_text(encoding="ascii"))
    return found
