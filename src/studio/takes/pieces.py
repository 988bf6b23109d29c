"""A take's sound while it waits to be heard: pieces in the database or the storage, a file where it is worked with.

One machine keeps pieces in the database, with the notes that came beside them. On many hosts each byte there goes to
disk twice, to each replica and into each copy: there ``settings.SOUND_IN_STORAGE`` puts them into the storage, each
before its batch is acknowledged.
"""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import transaction
from django.db.models import QuerySet

from giusto.errors import GiustoError
from giusto.hearing.allowed import HIGHEST_HZ, LOWEST_HZ, MOST_S
from studio.takes.models import SoundPiece, Take

MOST_GAP_S = 30.0  # ours
GAP = "{:,.0f} s of sound are missing after {:.0f} s: what came later was left out"


@dataclass(frozen=True, slots=True)
class Spooled:
    """Sound of a take in a file, where its first sample lies on the audio clock, and what is to be said of it."""

    path: Path
    first_frame: int
    rate_hz: int
    remarks: tuple[str, ...] = ()


def keep_pieces(take: Take, sounds: Iterable[tuple[int, bytes]]) -> None:
    """Keep pieces of a take's sound, first frame and samples each; what is there already stays."""
    if not settings.SOUND_IN_STORAGE:
        made = [SoundPiece(take=take, frame=frame, samples=samples) for frame, samples in sounds]
        SoundPiece.objects.bulk_create(made, ignore_conflicts=True)
        return
    found = dict(sounds)
    there = take.pieces.filter(frame__in=found).values_list("frame", flat=True)
    for frame in found.keys() - set(there):
        piece = SoundPiece(take=take, frame=frame)
        piece.file.save(f"{take.pk}/{frame}.pcm", ContentFile(found[frame]), save=True)


def forget_pieces(pieces: QuerySet[SoundPiece]) -> None:
    """Delete pieces, and their files once that is certain."""
    names = list(pieces.exclude(file="").values_list("file", flat=True))
    pieces.delete()
    transaction.on_commit(lambda: _delete_files(names))


def _delete_files(names: Iterable[str]) -> None:
    for name in names:
        default_storage.delete(name)


@contextmanager
def spooled(take: Take, *, from_s: float | None = None, to_s: float | None = None) -> Iterator[Spooled]:
    """Give a take's pieces as one file, from a drill time on and up to another; a little that is missing is silence.

    A gap longer than that ends the file: nobody plays on over it, and a machine that slept makes one of hours.

    Raises
    ------
    GiustoError
        ``sound``, where there is none, or more of it than a take can have.
    """
    rate_hz = int(take.device.sample_rate_hz)
    if not LOWEST_HZ <= rate_hz <= HIGHEST_HZ:
        problem = f"the sound has {rate_hz} samples a second, allowed are {LOWEST_HZ:,} to {HIGHEST_HZ:,}"
        raise GiustoError(problem, code="sound")
    pieces = take.pieces.order_by("frame")
    if from_s is not None:
        pieces = pieces.filter(frame__gte=int((take.zero_audio_s + from_s) * rate_hz))
    if to_s is not None:
        pieces = pieces.filter(frame__lt=int((take.zero_audio_s + to_s) * rate_hz))
    first = pieces.values_list("frame", flat=True).first()
    if first is None:
        raise GiustoError("no sound of this take has arrived", code="sound")
    with tempfile.TemporaryDirectory(prefix="giusto-sound-") as folder:
        path = Path(folder) / "take.wav"
        with soundfile.SoundFile(path, "w", rate_hz, 1, "PCM_16", format="RF64") as written:
            at, remarks = first, []
            for piece in pieces.iterator(chunk_size=200):
                samples = np.frombuffer(piece.content(), dtype="<i2")
                if piece.frame + samples.size - first > MOST_S * rate_hz:
                    raise GiustoError(f"the sound is longer than {MOST_S:,} s", code="sound")
                if piece.frame - at > MOST_GAP_S * rate_hz:
                    gap_s, from_first_s = (piece.frame - at) / rate_hz, (at - first) / rate_hz
                    remarks.append(GAP.format(gap_s, from_first_s))
                    break
                if piece.frame > at:
                    written.write(np.zeros(piece.frame - at, dtype=np.int16))
                fresh = samples[max(at - piece.frame, 0) :]
                written.write(fresh)
                at = max(at, piece.frame + samples.size)
        yield Spooled(path, first, rate_hz, tuple(remarks))
