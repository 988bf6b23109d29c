"""The sound of a take, kept where its player asked for it."""

from __future__ import annotations

import tempfile
from pathlib import Path

import soundfile
from django.core.files import File

from studio.takes.models import KeptSound, Take

BLOCK = 65_536  # samples


def keep_sound(take: Take, path: Path, *, zero_s: float, rate: float) -> KeptSound:
    """Keep a file of a take's sound, packed without loss, on this server alone."""
    with tempfile.TemporaryDirectory(prefix="giusto-sound-") as folder:
        packed = Path(folder) / "take.flac"
        with soundfile.SoundFile(path) as read:
            depth = "PCM_16" if read.subtype == "PCM_16" else "PCM_24"
            with soundfile.SoundFile(packed, "w", read.samplerate, read.channels, depth, format="FLAC") as written:
                for block in read.blocks(blocksize=BLOCK, dtype="int32"):
                    written.write(block)
        kept = KeptSound(take=take, player=take.player, bytes=packed.stat().st_size, zero_s=zero_s, rate=rate)
        with packed.open("rb") as content:
            kept.file.save(f"{take.pk}.flac", File(content), save=True)
    return kept
