"""What a page needs to hear a player: by what, through what, and what pads stand for."""

from __future__ import annotations

from typing import Any

from giusto.hearing.count_in import STROKES
from giusto.hearing.delay import calibration_clicks
from giusto.hearing.inputs import Input
from giusto.hearing.level import Gate
from studio.accounts.models import Player
from studio.hearing.instruments import let_in
from studio.hearing.models import Delay, Ear, ear_of

TAPPED_CLICKS, TAPPED_APART_S = 24, 0.6  # ours: a quarter of a minute at 100 a minute
STROKE_VARIANTS = 8
STAND_IN_GAIN = 0.9


def ear_plan(player: Player) -> dict[str, Any]:
    """Return what the browser needs: by what it hears, and the stand-in's room where it is one."""
    ear = ear_of(player)
    gate = _gate(player, ear)
    return {
        "by": ear.by,
        "device": ear.device,
        "microphone": ear.microphone,
        "port": ear.port,
        "channel": ear.channel,
        "keep": ear.keeps_sound,
        "threshold_db": gate and gate.threshold_db,
        "refractory_s": gate and gate.refractory_s,
        "counts_in": ear.counts_in and not ear.is_still,
        "counts_by": ear.counts_by,
        "strokes": STROKES,
        "pads": ear.pads,
        "delay_ms": _delay_ms(player, ear),
        "room": room_of(ear) if Input(ear.by).is_simulated else None,
    }


def room_of(ear: Ear) -> dict[str, Any]:
    """Return the stand-in's instrument and room, levels as gains."""
    return {
        "sound": ear.sound,
        "variants": STROKE_VARIANTS,
        "bleed": 0.0 if ear.bleed_db is None else round(10 ** (ear.bleed_db / 20), 6),
        "noise": round(10 ** (ear.noise_db / 20), 8),
        "delay_s": ear.delay_ms / 1000,
        "gain": STAND_IN_GAIN,
    }


def tapped_clicks_s() -> list[float]:
    """Return when the clicks of a tapping calibration sound."""
    return [round(TAPPED_APART_S * number, 4) for number in range(TAPPED_CLICKS)]


def sent_clicks_s() -> list[float]:
    """Return when the clicks of a round trip sound."""
    return [float(one) for one in calibration_clicks()]


def _gate(player: Player, ear: Ear) -> Gate | None:
    """Return what counts as a note; None where no level was checked, and nothing is left out."""
    if ear.threshold_db is None or ear.refractory_s is None:
        return None
    return let_in(player, Gate(ear.threshold_db, ear.refractory_s))


def _delay_ms(player: Player, ear: Ear) -> float | None:
    """Return the newest delay of what hears, whichever browser: for a count-in, a few ms are enough."""
    delays = Delay.objects.of(player).filter(by=ear.by)
    newest = (delays.filter(device=ear.device) if ear.device else delays).first()
    return newest.delay_ms if newest else None
