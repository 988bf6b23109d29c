"""All that happens to a dropped recording before it is heard: taken in, put in line, cancelled."""

from __future__ import annotations

import secrets
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from giusto.drill import Drill
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.queue import is_in_line
from studio.recordings.models import Upload
from studio.recordings.policies import may_change, may_drop
from studio.recordings.tasks import hear


@transaction.atomic
def take_in(
    *,
    player: Player,
    file: UploadedFile,
    keeps_sound: bool = False,
    drill: Drill | None = None,
    origin: str = "",
    words: str = "",
    among: list[dict[str, Any]] | None = None,
) -> Upload:
    """Keep a recording until it is heard, and have that done; of no drill, it is found out which one it is of."""
    require(may_drop(player))
    upload = Upload(
        player=player,
        number=secrets.randbelow(2**62),
        drill=drill.plain() if drill else {},
        origin=origin,
        words=words,
        among=among or [],
        name=Path(str(file.name)).name[:200],
        keeps_sound=keeps_sound,
    )
    called = str(upload.pk)  # what it is, it says itself
    try:
        upload.file.save(called, file, save=True)
    except OSError:  # a full disk, say: half a file is not kept
        upload.file.storage.delete(upload.file.field.generate_filename(upload, called))
        raise
    hear.enqueue(str(upload.pk))
    return upload


@transaction.atomic
def cancel(*, player: Player, upload: Upload) -> None:
    """Stop a recording from being heard, and forget it."""
    upload = Upload.objects.select_for_update().get(pk=upload.pk)
    require(may_change(player, upload))
    if upload.is_under_way or upload.is_asking:
        upload.end(Upload.State.CANCELLED)


@transaction.atomic
def choose(*, player: Player, upload: Upload, number: int) -> None:
    """Have a recording heard as one of a drill that it may be of; said twice, it is heard once.

    Raises
    ------
    IndexError
        Where it may be of no such drill.
    """
    upload = Upload.objects.select_for_update().get(pk=upload.pk)
    require(may_change(player, upload))
    if not upload.is_asking:
        return
    chosen = upload.among[number]
    upload.drill, upload.origin, upload.words = chosen["drill"], chosen["origin"], chosen["words"]
    upload.state = Upload.State.WAITING
    upload.save(update_fields=["drill", "origin", "words", "state"])
    hear.enqueue(str(upload.pk))


def hear_again() -> int:
    """Put recordings in line anew whose worker, server or database died; return how many."""
    found = 0
    for upload in Upload.objects.under_way():
        with upload.heard_alone() as free:
            if free and not is_in_line(hear, str(upload.pk)):
                hear.enqueue(str(upload.pk))
                found += 1
    return found
