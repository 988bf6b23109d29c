"""Files: static ones under names that carry their hash; stored ones at hand, wherever they lie."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.db.models.fields.files import FieldFile
from whitenoise.storage import CompressedManifestStaticFilesStorage

BLOCK = 1 << 20


class HashedStorage(CompressedManifestStaticFilesStorage):
    """Whitenoise's storage, which also renames what a script module imports."""

    support_js_module_import_aggregation = True


@contextmanager
def at_hand(file: FieldFile) -> Iterator[Path]:
    """Give a stored file as one on this machine's disk: itself where it lies here, else a copy for as long as needed.

    Raises
    ------
    OSError
        Where it is not there, or can't be brought.
    """
    try:
        path: Path | None = Path(file.path)
    except NotImplementedError:  # an object store has none
        path = None
    if path is not None:
        yield path
        return
    with tempfile.TemporaryDirectory(prefix="giusto-stored-") as folder:
        copy = Path(folder) / Path(str(file.name)).name
        with file.open("rb") as stored, copy.open("wb") as written:
            shutil.copyfileobj(stored, written, BLOCK)
        yield copy
