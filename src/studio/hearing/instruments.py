"""Instruments that were learned: kept under their names, used for what is heard, forgotten."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from giusto.errors import GiustoError
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


@transaction.atomic
def keep(*, player: Player, learned: Timbre) -> Instrument:
    """Keep an instrument, in place of the one of that name.

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
        player=player, name=learned.name, shapes=learned.shapes.round(DIGITS).tolist(), learned_at=timezone.now()
    )


@transaction.atomic
def forget(*, player: Player, instrument: Instrument) -> None:
    """Forget an instrument."""
    require(may_choose(player) and instrument.player_id == player.pk)
    instrument.delete()
