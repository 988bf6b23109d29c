"""The shelf beside the sentence: eight families, one of them open."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache

from studio.drills.models import OwnDrill
from studio.drills.origin import Origin
from studio.drills.shelf import FAMILIES, BuiltIn, shelf
from studio.sheet.picture import Picture, thumbnail

# The drill whose first cycles stand for its family.
TYPICAL = {
    "settle": "clap",
    "follow": "accents-4-2-2",
    "figures": "figure-1-and-a",
    "sparse": "two-and-four",
    "moved": "shift-eighth",
    "slow": "every-fourth",
    "dropped": "two-heard-two-silent",
    "none": "half-a-minute",
}


@dataclass(frozen=True, slots=True)
class Family:
    """A family on the shelf with its drills, the player's own after the built-in ones."""

    key: str
    number: int
    name: str
    about: str
    picture: Picture
    built_in: tuple[BuiltIn, ...]
    own: tuple[OwnDrill, ...]
    is_open: bool

    @property
    def first(self) -> str:
        """The drill that a step to this family leads to."""
        return self.built_in[0].slug


def families(origin: Origin, own: Iterable[OwnDrill]) -> list[Family]:
    """Return the families in practice order, that of the origin open."""
    mine = list(own)
    return [
        Family(
            key=key,
            number=number,
            name=name,
            about=about,
            picture=_picture(TYPICAL[key]),
            built_in=tuple(b for b in shelf().values() if b.family == key),
            own=tuple(drill for drill in mine if drill.family == key),
            is_open=key == origin.family,
        )
        for number, (key, (name, about)) in enumerate(FAMILIES.items(), start=1)
    ]


@cache
def _picture(slug: str) -> Picture:
    return thumbnail(shelf()[slug].drill)
