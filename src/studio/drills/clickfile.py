"""The click of a drill as a file to take away."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import IO

from giusto.click.midi import write_midi
from giusto.click.sound import write_sound
from giusto.click.voice import AnyVoice
from giusto.schedule import Schedule

DOWNLOADS = ("wav", "flac", "mid")
LONGEST_S = 3600  # of sound made while the page waits; longer drills have the command line
MOST_CLICKS = 50_000  # of one page or file made while somebody waits
RATE_HZ = 48_000


def click_file(plan: Schedule, form: str, *, voice: AnyVoice, counted: str = "") -> IO[bytes]:
    """Return an open file with the click; it is gone once closed."""
    with tempfile.TemporaryDirectory(prefix="giusto-click-") as folder:
        path = Path(folder) / f"click.{form}"
        if form == "mid":
            write_midi(plan, path)
        else:
            write_sound(plan, path, voice=voice, rate_hz=RATE_HZ, counted=counted)
        return path.open("rb")
