"""Drill files in and out: one as JSON, many as a zip."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import PurePath
from typing import IO

from django.core.files.uploadedfile import UploadedFile
from django.utils.text import slugify

from giusto.drill import Drill, parse
from giusto.drill.json_file import MAX_BYTES
from giusto.errors import DrillError

MAX_TOLD = 20  # ours: faults of one file
MAX_FILES = 1000  # ours: of one import
MAX_UNPACKED = 50_000_000
MAX_ZIP_BYTES = 20_000_000  # ours: a thousand drills with all in use fit


@dataclass(frozen=True, slots=True)
class Found:
    """One file of an import: the drill in it, or what is wrong with it."""

    file: str
    drill: Drill | None
    faults: tuple[str, ...] = ()


def read_uploads(uploads: Iterable[UploadedFile]) -> list[Found]:
    """Return what each file holds; a zip stands for the files in it."""
    found = [item for upload in uploads for item in _read(str(upload.name), upload)]
    if len(found) <= MAX_FILES:
        return found
    return [Found("", None, (f"these are {len(found):,} files, allowed are {MAX_FILES:,} at a time",))]


def file_name(name: str) -> str:
    """Return a name for a drill's file."""
    return f"{slugify(name)[:100] or 'drill'}.json"


def drill_json(drill: Drill) -> str:
    """Return the text of a drill's file."""
    return f"{drill.model_dump_json(indent=2)}\n"


def drills_zip(drills: Iterable[Drill]) -> bytes:
    """Return a zip with a file for each drill."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as bundle:
        taken: set[str] = set()
        for number, drill in enumerate(drills, start=1):
            name = file_name(drill.name)
            name = name if name not in taken else f"{number}-{name}"
            taken.add(name)
            bundle.writestr(name, drill_json(drill))
    return buffer.getvalue()


def _read(name: str, upload: UploadedFile) -> Iterator[Found]:
    if not zipfile.is_zipfile(upload):
        upload.seek(0)
        yield _drill(name, upload.read(MAX_BYTES + 1))
        return
    if (upload.size or 0) > MAX_ZIP_BYTES:
        yield Found(name, None, (f"the zip is larger than {MAX_ZIP_BYTES:,} bytes",))
        return
    try:
        yield from _zipped(name, upload)
    except (zipfile.BadZipFile, OSError, RuntimeError, NotImplementedError, EOFError, zlib.error) as error:
        yield Found(name, None, (f"the zip can't be read: {error}",))


def _zipped(name: str, upload: IO[bytes] | UploadedFile) -> Iterator[Found]:
    with zipfile.ZipFile(upload) as bundle:
        inside = [item for item in bundle.infolist() if PurePath(item.filename).suffix.lower() == ".json"]
        if not inside:
            yield Found(name, None, ("the zip holds no .json file",))
        if len(inside) > MAX_FILES:
            yield Found(name, None, (f"the zip holds {len(inside):,} files, allowed are {MAX_FILES:,}",))
            return
        if (unpacked := sum(min(item.file_size, MAX_BYTES) for item in inside)) > MAX_UNPACKED:
            yield Found(name, None, (f"the zip unpacks to {unpacked:,} bytes, allowed are {MAX_UNPACKED:,}",))
            return
        for item in inside:
            with bundle.open(item) as stream:  # read no more than a drill may have, whatever the zip claims
                yield _drill(f"{name}/{item.filename}", stream.read(MAX_BYTES + 1))


def _drill(name: str, text: bytes) -> Found:
    try:
        return Found(name, parse(text))
    except DrillError as error:
        told = [str(fault) for fault in error.faults[:MAX_TOLD]]
        more = len(error.faults) - MAX_TOLD
        return Found(name, None, (*told, f"and {more:,} more") if more > 0 else tuple(told))
