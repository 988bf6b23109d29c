"""The built-in drills: data files beside this module, in practice order."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from giusto.drill import Drill, validate

FOLDER = Path(__file__).with_name("shelf")


@dataclass(frozen=True, slots=True)
class BuiltIn:
    """A drill on the shelf: its place, its family, what it trains and the drill itself."""

    slug: str
    family: str
    trains: str
    drill: Drill

    @property
    def name(self) -> str:
        """The drill's own name."""
        return self.drill.name


@cache
def shelf() -> dict[str, BuiltIn]:
    """Return the built-in drills by slug, in practice order."""
    files = sorted(FOLDER.glob("*.json"))
    drills = (_read(path) for path in files)
    return {drill.slug: drill for drill in drills}


def _read(path: Path) -> BuiltIn:
    found = json.loads(path.read_text(encoding="utf-8"))
    slug = path.stem.partition("-")[2]
    return BuiltIn(slug, found["family"], found["trains"], validate(found["drill"]))
