"""What a recording's file is, by how it begins and not by its name."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

LOOKED_AT = 4096  # bytes; as many tell text from sound
CONTROLS = bytes(set(range(32)) - {9, 10, 12, 13})  # what text has not
PLAIN_LETTERS = 0.7  # ours: of a text's bytes, whatever its language: the files meant are numbers

Content = Literal["sound", "midi", "text"]


def content_of(path: Path) -> Content:
    """Return what a file holds; of a sound nothing more is asked here."""
    with path.open("rb") as file:
        return content(file.read(LOOKED_AT))


def content(beginning: bytes) -> Content:
    """Return what a file holds that begins so."""
    if beginning.startswith(b"MThd"):
        return "midi"
    plain = sum(byte < 128 for byte in beginning)
    has_controls = len(beginning.translate(None, CONTROLS)) < len(beginning)
    return "sound" if has_controls or plain < PLAIN_LETTERS * len(beginning) else "text"
