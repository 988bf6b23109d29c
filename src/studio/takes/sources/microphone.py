"""A microphone: sound by the frames of the click's own clock, heard by the worker once the take is over."""

from __future__ import annotations

import numpy as np
from django.db import transaction

from giusto.hearing.microphone import KnownOfSound, round_trip_s, through_microphone
from giusto.hearing.recording import Recording
from giusto.hearing.sound import SoundFile
from giusto.schedule import Schedule
from studio.drills.voices import voice_of
from studio.hearing.instruments import timbres_of
from studio.takes.actions import keep_notes
from studio.takes.allowance import full_of_sound
from studio.takes.kept_sound import try_to_keep
from studio.takes.models import Take
from studio.takes.pieces import Spooled, forget_pieces, spooled
from studio.takes.plan import plan_of
from studio.takes.sources.source import HEARD, Notes, NoteSource, stamped

MARGIN_S = 2.0  # of sound before what is looked for, so that its first notes stand out from something
AFTER_S = 10.0  # of sound after it: the return and what answers it
CYCLES_BEFORE = 7  # of sound before a silence that is told while a take is played
NOT_KEPT = "the sound was not kept: {}"
WAITS = "the sound could not be kept yet ({}): it stays in pieces, and is kept as soon as that goes"
COUNTED = (
    "the microphone heard the voice that counts: some of its words may stand among your notes, so listen through"
    " headphones where it counts"
)
MOVED = (
    "the delay from loudspeaker to microphone was {:.1f} ms in this take, and {:.1f} ms when it was calibrated: nothing"
    " here depends on it, since the click was heard, but calibrate again before you use headphones"
)


def notes(take: Take) -> Notes:
    """Return a take's notes: heard ones as they were kept, and those of keys that took a lost microphone's place."""
    found, remarks = stamped(take)
    told = take.hearing.remarks or tuple(filter(None, [take.device.remark]))
    return found, (*remarks, *told)


def waits(take: Take) -> bool:
    """Return whether there is sound of a take that nobody has heard yet."""
    return take.hearing.source is None and take.pieces.exists()


def hear(take: Take) -> None:
    """Turn the sound of a take that is over into notes, kept as batches more; nothing is done twice.

    Raises
    ------
    GiustoError
        Where the sound can't be worked with.
    """
    if not waits(take):
        return
    with spooled(take) as found:
        known = beforehand(take, found)
        with SoundFile(found.path) as sound:
            recording = through_microphone(sound, plan_of(take), known)
        _keep(take, recording, known, found)


def heard_so_far(take: Take, plan: Schedule, number: int) -> Recording:
    """Return the notes about one silence of a take that is still being played.

    Raises
    ------
    GiustoError
        Where nothing of it has arrived.
    """
    tick = max(plan.silences[number - 1].start_tick - CYCLES_BEFORE * plan.cycle_ticks, 0)
    from_s = float(plan.seconds(tick)) - MARGIN_S
    to_s = float(plan.seconds(plan.silences[number - 1].end_tick)) + AFTER_S
    with spooled(take, from_s=from_s, to_s=to_s) as found, SoundFile(found.path) as sound:
        return through_microphone(sound, plan, beforehand(take, found))


def beforehand(take: Take, found: Spooled) -> KnownOfSound:
    """Return what is known beforehand of a take's sound."""
    delay_ms = take.hearing.delay_ms
    return KnownOfSound(
        zero_s=take.sound_zero_s - found.first_frame / found.rate_hz,
        zero_half_s=take.hearing.phone.half_s if take.hearing.phone else 0.0,
        delay_s=None if delay_ms is None else delay_ms / 1000,
        voice=voice_of(take.player, take.device.voice),
        gate=take.hearing.gate,
        timbres=timbres_of(take.player),
    )


@transaction.atomic
def _keep(take: Take, recording: Recording, known: KnownOfSound, found: Spooled) -> None:
    """Keep notes, and the sound where that was asked for; the pieces go, unless there is no room for the sound."""
    locked = Take.objects.select_for_update().get(pk=take.pk)
    if locked.hearing.source is None:
        at_ms = 1000 * (recording.notes.onset_s + locked.zero_audio_s)
        played = recording.notes
        records = [
            {"at_ms": round(at, 4), "source": HEARD, "strength": round(strength, 4)} | ({"on": name} if name else {})
            for at, strength, name in zip(at_ms.tolist(), played.strength.tolist(), played.source.tolist(), strict=True)
        ]
        locked.batch_count = keep_notes(locked, records)
        middle_s = float(np.median(recording.notes.onset_s)) if len(recording.notes) else 0.0
        trip_s = round_trip_s(recording, known, middle_s)
        hearing = locked.hearing.but(round_trip_ms=None if trip_s is None else round(1000 * trip_s, 3))
        counted = (COUNTED,) if locked.device.counted and recording.line.by == "bleed" else ()
        moved = (MOVED.format(hearing.round_trip_ms, hearing.delay_ms),) if hearing.has_moved else ()
        locked.hearing = hearing.but(
            source=recording.source(), remarks=(*found.remarks, *recording.remarks, *counted, *moved)
        )
        line = (recording.line.zero_s, recording.line.rate)
        full = full_of_sound(take.player) if hearing.keep else ""
        if full:
            locked.hearing = locked.hearing.but(remarks=(*locked.hearing.remarks, NOT_KEPT.format(full)))
            forget_pieces(locked.pieces.all())
        elif hearing.keep and (problem := try_to_keep(locked, found.path, *line)):
            remarks = (*locked.hearing.remarks, WAITS.format(problem))
            locked.hearing = locked.hearing.but(unkept=line, remarks=remarks)
        else:
            forget_pieces(locked.pieces.all())
        locked.save(update_fields=["hearing", "batch_count"])
    take.hearing, take.batch_count = locked.hearing, locked.batch_count


SOURCE = NoteSource(notes, waits, hear)
