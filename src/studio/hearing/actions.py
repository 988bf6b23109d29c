"""All that changes how a player is heard."""

from __future__ import annotations

from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from giusto.hearing.delay import Delay as Measured
from giusto.hearing.level import Gate
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.hearing.models import Delay, Ear, ear_of
from studio.hearing.policies import may_choose

BROWSER_CHARS, DEVICE_CHARS = 400, 200
PHONE_NOTED = timedelta(seconds=3)  # ours: between two notes that a phone listens


@transaction.atomic
def keep_ear(*, player: Player, ear: Ear) -> None:
    """Keep by what a player is heard."""
    require(may_choose(player) and ear.player_id == player.pk)
    ear.save()


@transaction.atomic
def keep_still(*, player: Player, still: bool) -> None:
    """Let strokes begin nothing today, or again."""
    require(may_choose(player))
    ear = ear_of(player)
    ear.still_on = timezone.localdate() if still else None
    ear.save()


def note_phone(*, player: Player) -> None:
    """Note that a phone of the player's listens, now and then while it does."""
    require(may_choose(player))
    ear, at = ear_of(player), timezone.now()
    if ear.phone_at is None or at - ear.phone_at > PHONE_NOTED:
        Ear.objects.update_or_create(player=player, defaults={"phone_at": at})


@transaction.atomic
def keep_gate(*, player: Player, gate: Gate) -> None:
    """Keep what of the sound counts as a note, as the level check found it."""
    require(may_choose(player))
    ear = ear_of(player)
    ear.threshold_db, ear.refractory_s = gate.threshold_db, gate.refractory_s
    ear.save()


@transaction.atomic
def keep_delay(*, player: Player, by: str, device: str, browser: str, measured: Measured) -> Delay:
    """Keep a delay, in place of what was measured of the same device and browser before."""
    require(may_choose(player))
    low_s, high_s = measured.ci95_s
    kept, _ = Delay.objects.update_or_create(
        player=player,
        by=by,
        device=device[:DEVICE_CHARS],
        browser=browser[:BROWSER_CHARS],
        defaults={
            "delay_ms": round(1000 * measured.delay_s, 3),
            "low_ms": round(1000 * low_s, 3),
            "high_ms": round(1000 * high_s, 3),
            "count": measured.n,
            "measured_at": timezone.now(),
        },
    )
    return kept


@transaction.atomic
def forget_delay(*, player: Player, delay: Delay) -> None:
    """Forget a delay that was measured."""
    require(may_choose(player) and delay.player_id == player.pk)
    delay.delete()
