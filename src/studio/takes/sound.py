"""A take's sound: from pieces as they came to notes as they were heard; kept afterwards only if asked."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from django.core.files import File
from django.db import transaction
from django.db.models import Max, Min

from giusto.click.voice import VOICES
from giusto.errors import GiustoError
from giusto.hearing.level import Gate
from giusto.hearing.microphone import Known, round_trip_s, through_microphone
from giusto.hearing.recording import Recording
from giusto.hearing.sound import HIGHEST_HZ, LOWEST_HZ, MOST_S, SoundFile
from giusto.schedule import Schedule
from studio.takes.material import HEARD, plan_of
from studio.takes.models import Batch, KeptSound, Piece, Take

MARGIN_S = 2.0  # of sound before what is looked for, so that its first notes stand out from something
CYCLES_BEFORE = 7  # of sound before a silence that is told while a take is played
BATCH_NOTES = 1000
MOVED = (
    "the delay from loudspeaker to microphone was {:.1f} ms in this take, and {:.1f} ms when it was calibrated: nothing"
    " here depends on it, since the click was heard, but calibrate again before you use headphones"
)


@dataclass(frozen=True, slots=True)
class Spooled:
    """Sound of a take in a file, and where its first sample lies on the audio clock."""

    path: Path
    first_frame: int
    rate_hz: int


def hear_take(take: Take) -> None:
    """Turn the sound of a take that is over into notes, kept as one batch more; nothing is done twice.

    Raises
    ------
    GiustoError
        Where the sound can't be worked with.
    """
    if not take.is_by_sound or "source" in take.hearing or not take.pieces.exists():
        return
    with spooled(take) as found:
        known = known_of(take, found)
        with SoundFile(found.path) as sound:
            recording = through_microphone(sound, plan_of(take), known)
        _keep(take, recording, known, found)


def sound_s(take: Take) -> float:
    """Return how much sound of a take waits to be heard, in seconds."""
    rate_hz = float(take.device.get("sample_rate_hz") or 0)
    ends = take.pieces.aggregate(first=Min("frame"), last=Max("frame"))
    return (ends["last"] - ends["first"]) / rate_hz if rate_hz and ends["first"] is not None else 0.0


def heard_so_far(take: Take, plan: Schedule, number: int) -> Recording:
    """Return the notes about one silence of a take that is still being played.

    Raises
    ------
    GiustoError
        Where nothing of it has arrived.
    """
    tick = max(plan.silences[number - 1].start_tick - CYCLES_BEFORE * plan.cycle_ticks, 0)
    from_s = float(plan.seconds(tick)) - MARGIN_S
    with spooled(take, from_s=from_s) as found, SoundFile(found.path) as sound:
        return through_microphone(sound, plan, known_of(take, found))


def known_of(take: Take, found: Spooled) -> Known:
    """Return what is known beforehand of a take's sound."""
    told, fallback = take.hearing, Gate()
    gate = Gate(told.get("threshold_db", fallback.threshold_db), told.get("refractory_s", fallback.refractory_s))
    delay_ms = told.get("delay_ms")
    voice = str(take.device.get("voice"))
    return Known(
        zero_s=take.zero_audio_s - found.first_frame / found.rate_hz,
        delay_s=None if delay_ms is None else delay_ms / 1000,
        voice=voice if voice in VOICES else next(iter(VOICES)),
        gate=gate,
    )


@contextmanager
def spooled(take: Take, *, from_s: float | None = None) -> Iterator[Spooled]:
    """Give a take's pieces as one file, from a drill time on; what is missing between them is silence.

    Raises
    ------
    GiustoError
        ``sound``, where there is none, or more of it than a take can have.
    """
    rate_hz = int(take.device.get("sample_rate_hz") or 0)
    if not LOWEST_HZ <= rate_hz <= HIGHEST_HZ:
        problem = f"the sound has {rate_hz} samples a second, allowed are {LOWEST_HZ:,} to {HIGHEST_HZ:,}"
        raise GiustoError(problem, code="sound")
    pieces = take.pieces.order_by("frame")
    if from_s is not None:
        pieces = pieces.filter(frame__gte=int((take.zero_audio_s + from_s) * rate_hz))
    first = pieces.values_list("frame", flat=True).first()
    if first is None:
        raise GiustoError("no sound of this take has arrived", code="sound")
    with tempfile.TemporaryDirectory(prefix="giusto-sound-") as folder:
        path = Path(folder) / "take.wav"
        with soundfile.SoundFile(path, "w", rate_hz, 1, "PCM_16", format="RF64") as written:
            at = first
            for piece in pieces.iterator(chunk_size=200):
                samples = np.frombuffer(bytes(piece.samples), dtype="<i2")
                if piece.frame + samples.size - first > MOST_S * rate_hz:
                    raise GiustoError(f"the sound is longer than {MOST_S:,} s", code="sound")
                if piece.frame > at:
                    written.write(np.zeros(piece.frame - at, dtype=np.int16))
                fresh = samples[max(at - piece.frame, 0) :]
                written.write(fresh)
                at = max(at, piece.frame + samples.size)
        yield Spooled(path, first, rate_hz)


@transaction.atomic
def _keep(take: Take, recording: Recording, known: Known, found: Spooled) -> None:
    """Keep notes, and the sound where that was asked for; the pieces go."""
    locked = Take.objects.select_for_update().get(pk=take.pk)
    if "source" in locked.hearing:
        take.hearing = locked.hearing
        return
    _keep_notes(locked, recording)
    remarks = [*recording.remarks]
    middle_s = float(np.median(recording.notes.onset_s)) if len(recording.notes) else 0.0
    trip_s = round_trip_s(recording, known, middle_s)
    if trip_s is not None:
        locked.hearing["round_trip_ms"] = round(1000 * trip_s, 3)
        if locked.has_moved:
            remarks.append(MOVED.format(locked.hearing["round_trip_ms"], locked.hearing["delay_ms"]))
    locked.hearing |= {"source": recording.source(), "remarks": remarks}
    locked.save(update_fields=["hearing", "batch_count"])
    if locked.hearing.get("keep"):
        keep_sound(locked, found.path, zero_s=recording.line.zero_s, rate=recording.line.rate)
    Piece.objects.filter(take=locked).delete()
    take.hearing, take.batch_count = locked.hearing, locked.batch_count


def keep_sound(take: Take, path: Path, *, zero_s: float, rate: float) -> KeptSound:
    """Keep a file of a take's sound, packed without loss, on this server alone."""
    with tempfile.TemporaryDirectory(prefix="giusto-sound-") as folder:
        packed = Path(folder) / "take.flac"
        with soundfile.SoundFile(path) as read:
            depth = "PCM_16" if read.subtype == "PCM_16" else "PCM_24"
            with soundfile.SoundFile(packed, "w", read.samplerate, read.channels, depth, format="FLAC") as written:
                for block in read.blocks(blocksize=65_536, dtype="int32"):
                    written.write(block)
        kept = KeptSound(take=take, bytes=packed.stat().st_size, zero_s=zero_s, rate=rate)
        with packed.open("rb") as content:
            kept.file.save(f"{take.pk}.flac", File(content), save=True)
    return kept


def _keep_notes(take: Take, recording: Recording) -> None:
    """Keep what was heard as batches of their own, stamped by the audio clock."""
    at_ms = 1000 * (recording.notes.onset_s + take.zero_audio_s)
    notes = [
        {"at_ms": round(at, 4), "source": HEARD, "strength": round(strength, 4)}
        for at, strength in zip(at_ms.tolist(), recording.notes.strength.tolist(), strict=True)
    ]
    number = max(take.batches.values_list("number", flat=True), default=-1) + 1
    Batch.objects.bulk_create(
        Batch(take=take, number=number + index, notes=notes[start : start + BATCH_NOTES], pairs=[])
        for index, start in enumerate(range(0, len(notes), BATCH_NOTES))
    )
    take.batch_count = number + -(-len(notes) // BATCH_NOTES)
