"""Where a sentence starts from: a built-in drill, one of the player's own, or a link alone."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.drill import Drill, validate
from giusto.drill.family import family_of
from studio.accounts.models import Player
from studio.drills.models import OwnDrill
from studio.drills.shelf import BuiltIn, Guide, shelf
from studio.ids import uuid_of

REACH = "reach"  # the test of reach: no drill of the shelf, since its silences are as long as asked
FIRST = "two-heard-two-silent"  # what a new player starts with


@dataclass(frozen=True, slots=True)
class Origin:
    """A drill before its words are changed.

    Attributes
    ----------
    key : str
        Its word in an address: a built-in's slug, an own drill's id, ``""`` for a link alone.
    """

    key: str
    name: str
    family: str
    drill: Drill
    guide: Guide | None = None
    own: OwnDrill | None = None

    @property
    def keeps_its_name(self) -> bool:
        """Whether a changed drill goes by the same name: one that its player named does, one of the shelf does not."""
        return self.guide is None


def origin_of(player: Player, key: str | None) -> Origin:
    """Return what an address names; what is not there any more is a link alone."""
    if key is None or key in shelf():
        return of_built_in(shelf()[key or FIRST])
    own = OwnDrill.objects.visible_to(player).filter(pk=uuid_of(key)).first()
    return of_own(own) if own else _of_nothing(REACH if key == REACH else "")


def of_built_in(found: BuiltIn) -> Origin:
    """Return a built-in drill as an origin."""
    return Origin(found.slug, found.name, found.family, found.drill, guide=found.guide)


def of_own(own: OwnDrill) -> Origin:
    """Return a player's own drill as an origin."""
    return Origin(str(own.pk), own.name, own.family, validate(own.spec), own=own)


def _of_nothing(key: str) -> Origin:
    drill = shelf()[FIRST].drill.model_copy(update={"name": ""})
    return Origin(key, "", family_of(drill), drill)
