"""The sound of a recording's file, opened, whatever coder wrote it."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from giusto.hearing.sound import SoundFile, is_plain


@dataclass(frozen=True, slots=True)
class Opened:
    """The sound of a recording.

    Attributes
    ----------
    sound : SoundFile
    path : Path
        Of the plain file that it is read from: the recording itself, or what was decoded from it, as long as it is
        open.
    notes : tuple of str
        What a reading's source says of the file.
    """

    sound: SoundFile
    path: Path
    notes: tuple[str, ...]


@contextmanager
def opened(path: Path) -> Iterator[Opened]:
    """Open the sound of a recording, decoded first where it is coded.

    Raises
    ------
    GiustoError
        ``sound`` where it can't be read or is beyond what is allowed, ``limit`` where decoding takes too much.
    """
    if is_plain(path):
        with SoundFile(path) as sound:
            yield Opened(sound, path, sound.notes)
        return
    from giusto.hearing.coded import decode

    with tempfile.TemporaryDirectory(prefix="giusto-decoded-") as folder:
        plain = Path(folder) / "plain.wav"
        notes = decode(path, plain).notes()
        with SoundFile(plain) as sound:
            yield Opened(sound, plain, (*notes, *sound.notes))
