"""Whether a disk is full: asked of an error, and of the disk."""

from __future__ import annotations

import errno
import shutil
import tempfile
from pathlib import Path

import soundfile
from django.db import DatabaseError

NO_ROOM = {errno.ENOSPC, errno.EDQUOT}
LITTLE = 20_000_000  # bytes; ours: what a take with its sound, and the database's own files, need at once


def has_room(folder: Path | None = None) -> bool:
    """Whether there is room for a take more."""
    return shutil.disk_usage(folder or tempfile.gettempdir()).free > LITTLE


def is_full(error: BaseException | None) -> bool:
    """Whether an error says that a disk is full: a file's, or the database's (SQLSTATE 53100, in the system's words).

    The sound library tells only that it could not write: then the disk is asked.
    """
    while error is not None:
        if isinstance(error, OSError) and error.errno in NO_ROOM:
            return True
        if isinstance(error, DatabaseError) and "No space left on device" in str(error):
            return True
        if isinstance(error, soundfile.LibsndfileError) and not has_room():
            return True
        error = error.__cause__ or error.__context__
    return False
