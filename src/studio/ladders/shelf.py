"""The ladders that are ready: data files beside this module, in practice order, for every family of drills."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from giusto.practice.ladder import Ladder, ladder_of

FOLDER = Path(__file__).with_name("shelf")


@dataclass(frozen=True, slots=True)
class Ready:
    """A ladder on the shelf: which family it is of, and what it is for."""

    slug: str
    family: str
    about: str
    ladder: Ladder

    @property
    def name(self) -> str:
        """The ladder's own name."""
        return self.ladder.name


@cache
def ready() -> dict[str, Ready]:
    """Return the ladders that are ready by slug, in practice order."""
    found = (_read(path) for path in sorted(FOLDER.glob("*.json")))
    return {one.slug: one for one in found}


@cache
def ready_by_name() -> dict[str, Ready]:
    """Return them by their names, in small letters."""
    return {one.name.casefold(): one for one in ready().values()}


def _read(path: Path) -> Ready:
    found = json.loads(path.read_text(encoding="utf-8"))
    return Ready(path.stem.partition("-")[2], found["family"], found["about"], ladder_of(found["ladder"]))
