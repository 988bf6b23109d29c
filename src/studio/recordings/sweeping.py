"""What was to be forgotten, and is still there: found and swept at a start and every night."""

from __future__ import annotations

import logging
import time
from collections.abc import Iterator
from datetime import timedelta

from django.conf import settings
from django.contrib.sessions.models import Session
from django.core.files.storage import default_storage
from django.db.models import Exists, OuterRef
from django.utils import timezone

from studio.joining.actions import forget_left
from studio.queue import prune
from studio.recordings.models import Upload
from studio.takes.kept_sound import keep_waiting
from studio.takes.models import KeptSound, Reading, SoundPiece, Take
from studio.takes.pieces import forget_pieces

log = logging.getLogger("studio.work")
YOUNG = timedelta(hours=1)  # a file so young may still get its row
UNREAD = timedelta(days=30)  # ours: sound that can't be worked with waits so long for a version that can
NIGHT_S = 24 * 3600.0


def sweep() -> dict[str, int]:
    """Forget what should be forgotten; return how much of each there was.

    Sound that could not be kept for want of room is kept now; what no row knows is deleted.
    """
    found = {
        "players who left": forget_left(),
        "sounds kept at last": keep_waiting(),
        "takes whose sound was to be forgotten": _forget_pieces(),
        "recordings that nobody waits for": _delete_strays("uploads", Upload.objects.exclude(file="")),
        "sounds that belong to no take": _delete_strays("sounds", KeptSound.objects.all()),
        "pieces of sound that belong to no take": _delete_strays("pieces", SoundPiece.objects.exclude(file="")),
        "tasks done": prune(),
        "cookies of old": Session.objects.filter(expire_date__lt=timezone.now()).delete()[0],
    }
    if missing := sum(not default_storage.exists(name) for name in KeptSound.objects.values_list("file", flat=True)):
        log.warning("%d kept sounds have no file: they were deleted from outside, or a backup had none", missing)
    return {what: count for what, count in found.items() if count}


def sweep_nightly() -> None:
    """Sweep where that was not done for a day."""
    mark = settings.RUN / "swept" if settings.RUN else None
    if mark and (not mark.exists() or time.time() - mark.stat().st_mtime > NIGHT_S):
        mark.touch()
        log.info("swept: %s", sweep() or "nothing was left")


def _forget_pieces() -> int:
    """Forget pieces of sound that were heard and are not to be kept, and those of takes that can't be read."""
    unread = Reading.objects.filter(take=OuterRef("take"), take__started_at__lt=timezone.now() - UNREAD)
    heard = [
        take.pk
        for take in Take.objects.ended().filter(Exists(SoundPiece.objects.filter(take=OuterRef("pk"))))
        if take.hearing.source is not None and take.hearing.unkept is None
    ]
    gone = SoundPiece.objects.filter(take__in=heard) | SoundPiece.objects.filter(
        Exists(unread.exclude(refusal_code=""))
    )
    takes = set(gone.values_list("take_id", flat=True))
    forget_pieces(SoundPiece.objects.filter(take__in=takes))
    return len(takes)


def _delete_strays(folder: str, rows: object) -> int:
    """Delete the files of a folder that no row names, parts of uploads for one."""
    named = set(rows.values_list("file", flat=True))  # type: ignore[attr-defined]
    count = 0
    for name in _files(folder):
        if name not in named and timezone.now() - default_storage.get_modified_time(name) > YOUNG:
            default_storage.delete(name)
            count += 1
    return count


def _files(folder: str) -> Iterator[str]:
    """Yield the names of all files below a folder of the storage."""
    try:
        folders, files = default_storage.listdir(folder)
    except FileNotFoundError:  # nothing was ever kept in it; an object store has no folders, and lists none
        return
    yield from (f"{folder}/{name}" for name in files)
    for name in folders:
        yield from _files(f"{folder}/{name}")
