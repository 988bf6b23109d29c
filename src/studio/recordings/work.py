"""Hearing a dropped recording: what the worker does behind the page."""

from __future__ import annotations

import logging
from pathlib import Path
from time import monotonic

from django.db import DatabaseError, transaction
from django.db.models import F

from giusto.drill import validate
from giusto.errors import GiustoError
from giusto.hearing.recording import Recording, recorded
from giusto.hearing.which import Fit, which
from giusto.schedule import schedule
from studio.drills.voices import voices_of
from studio.hearing.instruments import timbres_of
from studio.queue import MOST_DEATHS
from studio.recordings.models import Upload
from studio.room import is_full
from studio.storage import at_hand
from studio.takes.allowance import full_of_sound
from studio.takes.kept_sound import try_to_keep
from studio.takes.models import Take
from studio.takes.reading import read_take
from studio.takes.sources.recording import begin, keep

log = logging.getLogger(__name__)

TELL_S = 0.5  # between two words on how far it is
DIED = f"It was tried {MOST_DEATHS} times, and each time whoever heard it died; the log says more."
UNKEPT = "the sound could not be kept: {}"
FAILED = "Something in this recording could not be worked with; the log says more."


class CancelledError(Exception):
    """The player does not want it any more."""


def hear_upload(upload_id: str, *, died: int = 0) -> None:
    """Hear a recording and make a take of it; done twice, it is made once.

    Parameters
    ----------
    upload_id : str
    died : int
        How many workers died at it; what killed so many kills the next one too.
    """
    upload = Upload.objects.filter(pk=upload_id).first()
    if upload is None:
        return
    with upload.heard_alone() as mine:
        upload.refresh_from_db()
        if mine and upload.is_under_way:
            _hear(upload, died)


def _hear(upload: Upload, died: int) -> None:
    begun = {"state": Upload.State.HEARING, "share": 0.0, "tries": F("tries") + 1}
    Upload.objects.filter(pk=upload.pk).under_way().update(**begun)
    if died >= MOST_DEATHS:
        upload.end(Upload.State.FAILED, DIED)
        return
    try:
        with at_hand(upload.file) as path:
            _work_on(upload, path)
    except CancelledError:
        return
    except DatabaseError:  # it comes back, and somebody takes the recording up again
        raise
    except GiustoError as error:
        upload.end(Upload.State.FAILED, f"{str(error)[:1].upper()}{str(error)[1:]}.")
    except OSError as error:
        if is_full(error):  # it is taken up again until there is room
            raise
        upload.end(Upload.State.FAILED, f"The file can’t be read: {error.strerror}.")
    except Exception:
        log.exception("recording %s can't be heard", upload.pk)
        upload.end(Upload.State.FAILED, FAILED)


def _work_on(upload: Upload, path: Path) -> None:
    """Find out which drill a recording is of, or hear it by the one that is known."""
    if not upload.drill:
        _ask(upload, which(path, [schedule(validate(one["drill"])) for one in upload.among]))
        return
    plan, player = schedule(validate(upload.drill)), upload.player
    voices, timbres = voices_of(player), timbres_of(player)
    found = recorded(path, plan, told=_Telling(upload), voices=voices, timbres=timbres)
    _keep(upload, found, path)


def _ask(upload: Upload, fits: list[Fit]) -> None:
    """Leave it to the player which drill a recording is of, the likeliest first, each with what speaks for it."""
    told = {fit.number: {"by": fit.by, "found": fit.found, "asked": fit.asked} for fit in fits}
    numbers = [*told, *(number for number in range(len(upload.among)) if number not in told)]
    among = [{**upload.among[number], **({"told": told[number]} if number in told else {})} for number in numbers]
    asking = {"state": Upload.State.ASKING, "among": among, "share": 0.0}
    Upload.objects.filter(pk=upload.pk).under_way().update(**asking)


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


def _keep(upload: Upload, found: Recording, path: Path) -> None:
    """Make a take of what was heard, unless the player thought better of it meanwhile.

    The notes are kept in one short transaction and read after it: nothing is locked while a reading is computed. Who
    dies in between leaves a take that is not read yet, and a recording that is taken up again; its notes are kept once.
    """
    take = _kept(upload, found)
    if take is None:
        return
    if upload.keeps_sound and found.kind == "sound" and not hasattr(take, "sound"):
        upload.problem = _kept_sound(take, path, found)
    read_take(take.pk)
    with transaction.atomic():
        locked = Upload.objects.select_for_update().get(pk=upload.pk)
        locked.take, locked.share = take, 1.0
        locked.end(Upload.State.DONE, upload.problem)


def _kept_sound(take: Take, path: Path, found: Recording) -> str:
    """Keep a take's sound; where that can't be, say so beside its reading and return it: the take stands."""
    problem = full_of_sound(take.player) or try_to_keep(take, path, found.line.zero_s, found.line.rate)
    if problem:
        problem = UNKEPT.format(problem)
        Take.objects.filter(pk=take.pk).update(hearing=take.hearing.but(remarks=(*take.hearing.remarks, problem)))
    return problem


@transaction.atomic
def _kept(upload: Upload, found: Recording) -> Take | None:
    """Keep the notes as a take that has the recording's own number; None where the recording was cancelled."""
    locked = Upload.objects.select_for_update().get(pk=upload.pk)
    if not locked.is_under_way:
        return None
    if there := Take.objects.filter(pk=locked.pk).exclude(ended_how="").first():
        return there
    message = begin(locked.drill, origin=locked.origin, name=locked.name)
    return keep(player=locked.player, begin=message, take_id=locked.pk, found=found)
