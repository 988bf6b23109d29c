"""The sound of a take, kept where its player asked for it."""

from __future__ import annotations

import logging
import tempfile
from pathlib import Path

import soundfile
from django.core.files import File
from django.db import transaction
from django.db.models import Exists, OuterRef

from giusto.errors import GiustoError
from giusto.hearing.files import opened
from studio.takes.models import KeptSound, SoundPiece, Take
from studio.takes.pieces import forget_pieces, spooled

log = logging.getLogger(__name__)
BLOCK = 65_536  # samples


def keep_sound(take: Take, path: Path, *, zero_s: float, rate: float) -> KeptSound:
    """Keep a file of a take's sound, packed without loss, on this server alone."""
    with tempfile.TemporaryDirectory(prefix="giusto-sound-") as folder:
        packed = Path(folder) / "take.flac"
        with opened(path) as recording, soundfile.SoundFile(recording.path) as read:
            depth = "PCM_16" if read.subtype == "PCM_16" else "PCM_24"
            with soundfile.SoundFile(packed, "w", read.samplerate, read.channels, depth, format="FLAC") as written:
                for block in read.blocks(blocksize=BLOCK, dtype="int32"):
                    written.write(block)
        kept = KeptSound(take=take, player=take.player, bytes=packed.stat().st_size, zero_s=zero_s, rate=rate)
        with packed.open("rb") as content:
            kept.file.save(f"{take.pk}.flac", File(content), save=True)
    return kept


def try_to_keep(take: Take, path: Path, zero_s: float, rate: float) -> str:
    """Keep a sound, or return why that can't be: a reading never fails by it."""
    try:
        keep_sound(take, path, zero_s=zero_s, rate=rate)
    except (OSError, GiustoError, soundfile.SoundFileError) as error:
        log.warning("the sound of take %s can't be kept: %s", take.pk, error)
        return getattr(error, "strerror", None) or "the file can’t be written"
    return ""


def keep_waiting() -> int:
    """Keep the sounds that could not be kept before, for want of room perhaps; return how many."""
    count = 0
    for take in Take.objects.filter(Exists(SoundPiece.objects.filter(take=OuterRef("pk")))):
        if (line := take.hearing.unkept) is None:
            continue
        with spooled(take) as found:
            problem = try_to_keep(take, found.path, *line)
        if not problem:
            _settle(take)
            count += 1
    return count


@transaction.atomic
def _settle(take: Take) -> None:
    """Forget the pieces of a sound that is kept now."""
    locked = Take.objects.select_for_update().get(pk=take.pk)
    locked.hearing = locked.hearing.but(unkept=None)
    locked.save(update_fields=["hearing"])
    forget_pieces(locked.pieces.all())
