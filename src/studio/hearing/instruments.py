"""Instruments that were learned: kept under their names, used for what is heard, forgotten."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Min
from django.utils import timezone

from giusto.errors import GiustoError
from giusto.hearing.level import Gate
from giusto.hearing.timbre import Timbre, timbre
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.hearing.models import Instrument
from studio.hearing.policies import may_choose

MOST = 8  # ours: of a player
DIGITS = 4  # of each band


def timbres_of(player: Player) -> tuple[Timbre, ...]:
    """Return how the player's instruments sound."""
    return tuple(timbre(one.name, one.shapes) for one in Instrument.objects.of(player))


def let_in(player: Player, gate: Gate) -> Gate:
    """Return a gate that the player's instruments pass as well: the softest of them is to be heard, and the fastest."""
    known = Instrument.objects.of(player).exclude(softest_db=None).exclude(closest_s=None)
    own = known.aggregate(softest_db=Min("softest_db"), closest_s=Min("closest_s"))
    if own["softest_db"] is None:
        return gate
    return Gate(min(gate.threshold_db, own["softest_db"]), min(gate.refractory_s, own["closest_s"]))


@transaction.atomic
def keep(*, player: Player, learned: Timbre, gate: Gate) -> Instrument:
    """Keep an instrument, and from where on its strokes count, in place of the one of that name.

    Raises
    ------
    GiustoError
        ``full``, where the player has too many.
    """
    require(may_choose(player))
    Instrument.objects.of(player).filter(name__iexact=learned.name).delete()
    if Instrument.objects.of(player).count() >= MOST:
        raise GiustoError(f"{MOST} instruments were learned, allowed are no more: forget one first", code="full")
    return Instrument.objects.create(
        player=player,
        name=learned.name,
        shapes=learned.shapes.round(DIGITS).tolist(),
        softest_db=gate.threshold_db,
        closest_s=gate.refractory_s,
        learned_at=timezone.now(),
    )


@transaction.atomic
def forget(*, player: Player, instrument: Instrument) -> None:
    """Forget an instrument."""
    require(may_choose(player) and instrument.player_id == player.pk)
    instrument.delete()
