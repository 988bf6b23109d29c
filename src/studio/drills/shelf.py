"""The built-in drills: data files beside this module, in practice order, in eight families."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from giusto.drill import Drill, validate
from giusto.drill.identity import drill_key as key_of

FOLDER = Path(__file__).with_name("shelf")
# Families in practice order: a short word for addresses, the name, what they are for.
FAMILIES = {
    "settle": ("Settle", "Listen, clap, speak, one note."),
    "follow": ("Follow", "Every beat sounds; you go with it."),
    "figures": ("Figures", "Fifteen ways to fill a beat."),
    "sparse": ("Sparse click", "Fewer clicks, more of your own."),
    "moved": ("Moved click", "The click is not on your beat."),
    "slow": ("Slow pulse", "A click spans several notes."),
    "dropped": ("Dropped click", "It leaves for a while, and returns."),
    "none": ("No click", "A start, then only you."),
}


@dataclass(frozen=True, slots=True)
class Variant:
    """A way to make a drill easier or harder: in words, and perhaps as another drill."""

    say: str
    drill: str | None


@dataclass(frozen=True, slots=True)
class Guide:
    """How a drill is played: what it trains, how, until when, and for whom it is a bad idea."""

    trains: str
    away: str
    on_it: str
    done: str
    easier: Variant
    harder: Variant
    not_for: str


@dataclass(frozen=True, slots=True)
class BuiltIn:
    """A drill on the shelf."""

    slug: str
    family: str
    guide: Guide
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


@cache
def slug_of(drill_key: str) -> str:
    """Return the built-in drill that is the same but for name and tempo, the first in practice order, or nothing."""
    return next((slug for slug, built_in in shelf().items() if key_of(built_in.drill) == drill_key), "")


def named_drill(name: str) -> Drill | None:
    """Return the built-in drill of a name; None where the shelf has none."""
    return next((one.drill for one in shelf().values() if one.name == name), None)


def family_name(family: str) -> str:
    """Return a family's name."""
    return FAMILIES[family][0]


def _read(path: Path) -> BuiltIn:
    found = json.loads(path.read_text(encoding="utf-8"))
    family = {name: key for key, (name, _) in FAMILIES.items()}[found.pop("family")]
    drill = validate(found.pop("drill"))
    easier, harder = (Variant(**found.pop(name)) for name in ("easier", "harder"))
    return BuiltIn(path.stem.partition("-")[2], family, Guide(**found, easier=easier, harder=harder), drill)
