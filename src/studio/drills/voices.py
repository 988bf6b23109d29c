"""The voice of the click: one of ours, or a sound that the player brought."""

from __future__ import annotations

import tempfile
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.urls import reverse
from django.utils import timezone

from giusto.click.voice import OWN_RATE_HZ, VOICES, AnyVoice, OwnSound
from giusto.errors import GiustoError
from giusto.hearing.own_click import LONGEST_S, own_sound
from giusto.limited import limited
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.drills.models import OWN, Delivery, OwnClick, delivery_of
from studio.drills.policies import may_keep
from studio.scores.actions import take_in
from studio.scores.models import ScoreFile

MAKER = "studio.drills.voices.make"
MOST_OWN = 20  # ours: a choice that still fits a page
MOST_BYTES = 4_000_000
MOST_S, MOST_MB = 10, 600
FULL_SCALE = 32767
KEY_CHARS = 12


def voice_of(player: Player, name: str) -> AnyVoice:
    """Return a voice by what a delivery or a take calls it; wood where it is not there (any more)."""
    if name in VOICES:
        return name
    own = OwnClick.objects.of(player).filter(key=name.removeprefix(OWN)).first() if name.startswith(OWN) else None
    if own is None:
        return next(iter(VOICES))
    return OwnSound(np.frombuffer(bytes(own.samples), dtype="<i2") / FULL_SCALE, own.pitch_hz)


def voices_of(player: Player) -> tuple[AnyVoice, ...]:
    """Return the voices that a recording of the player's may have in it: ours, and their own where it sounds now."""
    voice = voice_of(player, delivery_of(player).voice)
    return (*VOICES, voice) if isinstance(voice, OwnSound) else tuple(VOICES)


def choices(player: Player) -> list[tuple[str, str]]:
    """Return the voices to choose from: ours, and the player's own that are not put away."""
    own = OwnClick.objects.of(player).filter(put_away_at=None)
    return [*Delivery.Voice.choices, *((one.voice, f"“{one.name}”") for one in own)]


def bring(*, player: Player, file: UploadedFile, name: str) -> ScoreFile:
    """Take in a short recording, which the worker makes a click of."""
    require(may_keep(player))
    return take_in(player=player, file=file, words={"name": name}, maker=MAKER, back=reverse("drills:own-click"))


def make(player: Player, content: bytes, name: str, words: dict[str, str]) -> tuple[str, str]:
    """Make a click of a recording, and let it sound from now on; return where that is chosen, and what to tell.

    Raises
    ------
    GiustoError
        Where the sound can't be read, or the player has too many.
    """
    with tempfile.NamedTemporaryFile(prefix="giusto-click-") as file:
        file.write(content)
        file.flush()
        sound: OwnSound = limited(own_sound, Path(file.name), seconds=MOST_S, megabytes=MOST_MB)
    own = keep(player=player, sound=sound, name=words["name"].strip() or Path(name).stem)
    return reverse("drills:set"), f"The click is “{own.name}” now."


@transaction.atomic
def keep(*, player: Player, sound: OwnSound, name: str) -> OwnClick:
    """Keep a click of the player's own, and let it sound; the same again is the one that is there.

    Raises
    ------
    GiustoError
        ``full``, where the player has too many.
    """
    require(may_keep(player))
    kept = sounding(np.round(FULL_SCALE * sound.samples).astype("<i2").tobytes())
    key = kept.pop("key")
    others = OwnClick.objects.of(player).filter(put_away_at=None).exclude(key=key)
    if others.count() >= MOST_OWN:
        raise GiustoError(f"there are {MOST_OWN} clicks of your own, allowed are no more: put one away", code="full")
    said = {**kept, "name": name[:40], "pitch_hz": sound.pitch_hz, "put_away_at": None}
    own, _ = OwnClick.objects.update_or_create(player=player, key=key, defaults=said)
    Delivery.objects.update_or_create(player=player, defaults={"voice": own.voice})
    return own


def sounding(samples: bytes) -> dict[str, Any]:
    """Return samples and their key as an own click has them.

    Raises
    ------
    ValueError
        Where they are no whole samples of 16 bits, or more than a click has.
    """
    most = 2 * round(LONGEST_S * OWN_RATE_HZ) + 2
    if not samples or len(samples) % 2 or len(samples) > most:
        raise ValueError(f"a click has {len(samples):,} bytes of sound, allowed are 2 to {most:,}, two a sample")
    return {"samples": samples, "key": sha256(samples).hexdigest()[:KEY_CHARS]}


@transaction.atomic
def put_away(*, player: Player, own: OwnClick) -> None:
    """Offer a click no more; takes that were played to it go on knowing it."""
    require(may_keep(player) and own.player_id == player.pk)
    own.put_away_at = timezone.now()
    own.save(update_fields=["put_away_at"])
    delivery = delivery_of(player)
    if own.voice in (delivery.voice, delivery.accent_voice):
        delivery.voice = Delivery.Voice.WOOD if delivery.voice == own.voice else delivery.voice
        delivery.accent_voice = "" if delivery.accent_voice == own.voice else delivery.accent_voice
        delivery.save(update_fields=["voice", "accent_voice"])
