"""All that changes a player's own drills: each an action, whole or not at all."""

from __future__ import annotations

from itertools import chain, count
from typing import Any

from django.db import transaction
from django.utils import timezone

from giusto.drill import Drill, validate
from giusto.drill.identity import drill_key
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.drills.models import Delivery, OwnDrill
from studio.drills.policies import may_change, may_keep

MAX_OWN = 5_000  # ours: a shelf that still fits a page


class KeepError(ValueError):
    """A drill can't be kept as it was asked; the text is for its player."""


@transaction.atomic
def keep_drill(*, player: Player, drill: Drill, name: str, family: str) -> OwnDrill:
    """Keep a new drill under a name of its own.

    Raises
    ------
    KeepError
        Where the player has another of that name, or too many.
    """
    require(may_keep(player))
    _refuse_taken(player, name)
    if OwnDrill.objects.visible_to(player).count() >= MAX_OWN:
        raise KeepError(f"There are {MAX_OWN:,} drills of your own, allowed are no more. Delete some first.")
    return OwnDrill.objects.create(
        player=player, name=name, family=family, spec=_spec(drill, name), drill_key=drill_key(drill)
    )


@transaction.atomic
def change_drill(*, player: Player, own: OwnDrill, drill: Drill, name: str, family: str) -> OwnDrill:
    """Change a kept drill.

    Raises
    ------
    KeepError
        Where the player has another of that name.
    """
    require(may_change(player, own))
    _refuse_taken(player, name, but=own)
    own.name, own.family, own.spec, own.drill_key = name, family, _spec(drill, name), drill_key(drill)
    own.save(update_fields=["name", "family", "spec", "drill_key", "changed_at"])
    return own


@transaction.atomic
def copy_drill(*, player: Player, own: OwnDrill) -> OwnDrill:
    """Keep a drill a second time, under the next free name."""
    require(may_change(player, own))
    name = free_name(player, own.name)
    spec = {**own.spec, "name": name}
    return OwnDrill.objects.create(player=player, name=name, family=own.family, spec=spec, drill_key=own.drill_key)


@transaction.atomic
def delete_drill(*, player: Player, own: OwnDrill) -> None:
    """Put a drill away; it can be brought back."""
    require(may_change(player, own))
    own.deleted_at = timezone.now()
    own.save(update_fields=["deleted_at"])


@transaction.atomic
def empty_deleted(*, player: Player) -> int:
    """Forget deleted drills for good; return how many there were. Takes of them stay, with the drill as played."""
    require(may_keep(player))
    return OwnDrill.objects.deleted(player).delete()[1].get("drills.OwnDrill", 0)


@transaction.atomic
def restore_drill(*, player: Player, own: OwnDrill) -> OwnDrill:
    """Undo the deletion of a drill; a name taken meanwhile gets a number."""
    require(may_change(player, own))
    if own.deleted_at:
        own.name = free_name(player, own.name)
        own.spec = {**own.spec, "name": own.name}
        own.deleted_at = None
        own.save(update_fields=["name", "spec", "deleted_at"])
    return own


@transaction.atomic
def set_delivery(*, player: Player, **fields: Any) -> Delivery:
    """Set how the click reaches a player."""
    require(may_keep(player))
    return Delivery.objects.update_or_create(player=player, defaults=fields)[0]


def free_name(player: Player, name: str) -> str:
    """Return the name itself, or with the first number that makes it free."""
    taken = {other.casefold() for other in OwnDrill.objects.visible_to(player).values_list("name", flat=True)}
    numbered = (f"{name[:112]} {number}" for number in count(2))
    return next(free for free in chain([name], numbered) if free.casefold() not in taken)


def _refuse_taken(player: Player, name: str, *, but: OwnDrill | None = None) -> None:
    others = OwnDrill.objects.visible_to(player).named(name)
    if but:
        others = others.exclude(pk=but.pk)
    if others.exists():
        raise KeepError(
            f"You have a drill named “{name}” already. Choose another name, or open that one and change it."
        )


def _spec(drill: Drill, name: str) -> dict[str, Any]:
    return validate(drill.plain() | {"name": name}).plain()
