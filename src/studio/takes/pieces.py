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
from numpy.typing import NDArray

from giusto.errors import GiustoError
from giusto.hearing.allowed import HIGHEST_HZ, LOWEST_HZ, MOST_S
from studio.takes.flac import MOST_FRAMES, unpacked
from studio.takes.messages import SoundMessage
from studio.takes.models import SoundPiece, Take

MOST_GAP_S = 30.0  # ours
GAP = "{:,.0f} s of sound are missing after {:.0f} s: what came later was left out"
DAMAGED = "pieces of its sound that came damaged are silence: {}"


@dataclass(frozen=True, slots=True)
class Spooled:
    """Sound of a take in a file, where its first sample lies on the audio clock, and what is to be said of it."""

    path: Path
    first_frame: int
    rate_hz: int
    remarks: tuple[str, ...] = ()


def keep_pieces(take: Take, sounds: Iterable[SoundMessage]) -> None:
    """Keep pieces of a take's sound as they came; what is there already stays."""
    found = {one.frame: one for one in sounds}
    if not settings.SOUND_IN_STORAGE:
        made = [_piece(take, one, samples=one.content) for one in found.values()]
        SoundPiece.objects.bulk_create(made, ignore_conflicts=True)
        return
    there = take.pieces.filter(frame__in=found).values_list("frame", flat=True)
    for frame in found.keys() - set(there):
        name = f"{take.pk}/{frame}.{'flac' if found[frame].flac else 'pcm'}"
        _piece(take, found[frame]).file.save(name, ContentFile(found[frame].content), save=True)


def _piece(take: Take, sound: SoundMessage, samples: bytes = b"") -> SoundPiece:
    return SoundPiece(take=take, frame=sound.frame, is_flac=sound.flac is not None, samples=samples)


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
    rate_hz = take.sound_rate_hz
    if not LOWEST_HZ <= rate_hz <= HIGHEST_HZ:
        problem = f"the sound has {rate_hz} samples a second, allowed are {LOWEST_HZ:,} to {HIGHEST_HZ:,}"
        raise GiustoError(problem, code="sound")
    pieces, from_frame = take.pieces.order_by("frame"), 0
    if from_s is not None:
        from_frame = int((take.sound_zero_s + from_s) * rate_hz)
        pieces = pieces.filter(frame__gt=from_frame - MOST_FRAMES)  # of the one that it lies within, the rest
    if to_s is not None:
        pieces = pieces.filter(frame__lt=int((take.sound_zero_s + to_s) * rate_hz))
    with tempfile.TemporaryDirectory(prefix="giusto-sound-") as folder:
        path = Path(folder) / "take.wav"
        with soundfile.SoundFile(path, "w", rate_hz, 1, "PCM_16", format="RF64") as written:
            first, remarks = _written(pieces, written, from_frame)
        yield Spooled(path, first, rate_hz, remarks)


def _written(pieces: QuerySet[SoundPiece], file: soundfile.SoundFile, from_frame: int) -> tuple[int, tuple[str, ...]]:
    """Write pieces into a file, each at its place; return the frame of the first sample, and what is to be said."""
    first = at = None
    remarks, damaged = [], 0
    for piece in pieces.iterator(chunk_size=200):
        samples = samples_of(piece)
        if samples is None:
            damaged += 1
            continue
        end = piece.frame + samples.size
        if end <= from_frame:
            continue
        if first is None or at is None:
            first = at = max(piece.frame, from_frame)
        if end - first > MOST_S * file.samplerate:
            raise GiustoError(f"the sound is longer than {MOST_S:,} s", code="sound")
        if piece.frame - at > MOST_GAP_S * file.samplerate:
            gap_s, from_first_s = (piece.frame - at) / file.samplerate, (at - first) / file.samplerate
            remarks.append(GAP.format(gap_s, from_first_s))
            break
        if piece.frame > at:
            file.write(np.zeros(piece.frame - at, dtype=np.int16))
        file.write(samples[max(at - piece.frame, 0) :])
        at = max(at, end)
    if first is None:
        raise GiustoError("no sound of this take has arrived", code="sound")
    if damaged:
        remarks.append(DAMAGED.format(damaged))
    return first, tuple(remarks)


def samples_of(piece: SoundPiece) -> NDArray[np.int16] | None:
    """Return a piece's samples, shape (frames,); None where it is damaged."""
    content = piece.content()
    return unpacked(content) if piece.is_flac else np.frombuffer(content, dtype="<i2")
