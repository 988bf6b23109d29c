"""All that happens to a dropped recording: taken in, heard behind the page, cancelled."""

from __future__ import annotations

import logging
import secrets
from functools import partial
from pathlib import Path
from time import monotonic

from django.core.files.uploadedfile import UploadedFile
from django.db import DatabaseError, transaction
from django.db.models import F
from django.utils import timezone

from giusto.drill import Drill, validate
from giusto.errors import GiustoError
from giusto.hearing.recording import Recording, recorded
from giusto.schedule import schedule
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.recordings.models import Upload
from studio.recordings.policies import may_change, may_drop
from studio.recordings.tasks import hear
from studio.takes.actions import add_batch, begin_take, end_take
from studio.takes.messages import Begin, End, Note, Notes
from studio.takes.models import Take
from studio.takes.reading import read_take
from studio.takes.sound import BATCH_NOTES, keep_sound

log = logging.getLogger(__name__)

ZERO_S = 2.0  # of the stamps: notes may come before the drill's time zero
TELL_S = 0.5  # between two words on how far it is
MOST_TRIES = 10  # ours: what killed so many workers kills the next one too; a start that is ended kills one as well
DIED = f"It was tried {MOST_TRIES} times, and each time whoever heard it died; the log says more."
FAILED = "Something in this recording could not be worked with; the log says more."
SOUND = (".wav", ".flac")


class CancelledError(Exception):
    """The player does not want it any more."""


@transaction.atomic
def take_in(*, player: Player, drill: Drill, origin: str, words: str, file: UploadedFile, keeps_sound: bool) -> Upload:
    """Keep a recording until it is heard, and have that done."""
    require(may_drop(player))
    name = Path(str(file.name)).name
    upload = Upload(
        player=player,
        number=secrets.randbelow(2**62),
        drill=drill.plain(),
        origin=origin,
        words=words,
        name=name[:200],
        keeps_sound=keeps_sound and Path(name).suffix.lower() in SOUND,
    )
    upload.file.save(f"{upload.pk}{Path(name).suffix.lower()}", file, save=True)
    hear.enqueue(str(upload.pk))
    return upload


@transaction.atomic
def cancel(*, player: Player, upload: Upload) -> None:
    """Stop a recording from being heard, and forget it."""
    upload = Upload.objects.select_for_update().get(pk=upload.pk)
    require(may_change(player, upload))
    if upload.is_under_way:
        _over(upload, Upload.State.CANCELLED)


def hear_again() -> int:
    """Put recordings in line anew whose worker, server or database died; return how many."""
    found = 0
    for upload in Upload.objects.under_way():
        with upload.heard_alone() as free:
            if free and not is_in_line(upload):
                hear.enqueue(str(upload.pk))
                found += 1
    return found


def is_in_line(upload: Upload) -> bool:
    """Return whether a recording waits in the queue, so that some worker comes to it by itself."""
    from django_tasks.base import TaskResultStatus
    from django_tasks_db.models import DBTaskResult

    waiting = DBTaskResult.objects.filter(task_path=hear.module_path, status=TaskResultStatus.READY)
    return waiting.filter(args_kwargs__args=[str(upload.pk)]).exists()


def hear_upload(upload_id: str) -> None:
    """Hear a recording and make a take of it; done twice, it is made once."""
    upload = Upload.objects.filter(pk=upload_id).first()
    if upload is None:
        return
    with upload.heard_alone() as mine:
        upload.refresh_from_db()
        if mine and upload.is_under_way:
            _hear(upload)


def _hear(upload: Upload) -> None:
    begun = {"state": Upload.State.HEARING, "share": 0.0, "tries": F("tries") + 1}
    Upload.objects.filter(pk=upload.pk).under_way().update(**begun)
    if upload.tries >= MOST_TRIES:
        _over(upload, Upload.State.FAILED, DIED)
        return
    path = Path(upload.file.path)
    try:
        drill = validate(upload.drill)
        found = recorded(path, schedule(drill), told=_Telling(upload))
        _keep(upload, found, path)
    except CancelledError:
        return
    except DatabaseError:  # it comes back, and somebody takes the recording up again
        raise
    except GiustoError as error:
        _over(upload, Upload.State.FAILED, f"{str(error)[:1].upper()}{str(error)[1:]}.")
    except OSError as error:
        _over(upload, Upload.State.FAILED, f"The file can’t be read: {error.strerror}.")
    except Exception:
        log.exception("recording %s can't be heard", upload.pk)
        _over(upload, Upload.State.FAILED, FAILED)


class _Telling:
    """Writes down how far a recording is heard, now and then; stops where it was cancelled."""

    def __init__(self, upload: Upload) -> None:
        self.upload, self.next = upload, 0.0

    def __call__(self, share: float) -> None:
        if monotonic() < self.next:
            return
        self.next = monotonic() + TELL_S
        kept = Upload.objects.filter(pk=self.upload.pk).under_way().update(share=min(share, 0.99))
        if not kept:
            raise CancelledError


@transaction.atomic
def _keep(upload: Upload, found: Recording, path: Path) -> None:
    """Make a take of what was heard, unless the player thought better of it meanwhile."""
    upload = Upload.objects.select_for_update().get(pk=upload.pk)
    if not upload.is_under_way:
        return
    take = keep_recording(player=upload.player, upload=upload, found=found)
    if upload.keeps_sound:
        keep_sound(take, path, zero_s=found.line.zero_s, rate=found.line.rate)
    upload.take, upload.share = take, 1.0
    _over(upload, Upload.State.DONE)


def _over(upload: Upload, state: Upload.State, problem: str = "") -> None:
    """End a recording; its file is not needed any more."""
    storage, name = upload.file.storage, upload.file.name
    if name:
        transaction.on_commit(partial(storage.delete, name))
    upload.state, upload.problem, upload.file = state, problem[:400], ""
    upload.save(update_fields=["state", "problem", "file", "take", "share"])


def keep_recording(*, player: Player, upload: Upload, found: Recording) -> Take:
    """Keep the notes of a recording as a take, with what their times rest on, and read it."""
    begin = Begin(
        drill=upload.drill,
        origin=upload.origin,
        input="recording",
        device={"browser": "recording", "name": upload.name},
        zero_audio_s=ZERO_S,
        started_at=timezone.now(),
    )
    take = begin_take(player=player, take_id=upload.pk, message=begin)
    take.hearing = {"by": "recording", "source": found.source(), "remarks": [*found.remarks]}
    take.save(update_fields=["hearing"])
    notes = found.notes
    stamps = [round(1000 * (onset_s + ZERO_S), 4) for onset_s in notes.onset_s.tolist()]
    records = [
        Note(at_ms=max(at_ms, 0.0), source=found.kind, strength=None if strength != strength else strength)
        for at_ms, strength in zip(stamps, notes.strength.tolist(), strict=True)
    ]
    batches = [records[i : i + BATCH_NOTES] for i in range(0, len(records), BATCH_NOTES)]
    pairs = [(ms / 1000, ms) for ms in (max(stamps[0], 1.0), max(stamps[-1], 1.0) + 1.0)]  # one clock
    for number, some in enumerate(batches):
        add_batch(player=player, take=take, number=number, message=Notes(notes=some, pairs=pairs))
    end_take(player=player, take=take, message=End(how="complete", batches=len(batches)))
    read_take(take.pk)
    return take
