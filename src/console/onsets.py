"""Find the onsets in a recording; as CSV, with their strength."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("take", metavar="TAKE.wav", help="sound of any usual container and coder")


def run(chosen: argparse.Namespace) -> None:
    """Write the onsets, in seconds from the file's beginning."""
    from giusto.hearing.files import opened
    from giusto.hearing.onsets import onsets
    from giusto.notes.csv_file import write_notes
    from giusto.notes.record import notes_of

    Path(chosen.take).open("rb").close()  # where it is not there, the system says so better than a library
    with opened(Path(chosen.take)) as file:
        found = onsets(file.sound)
    sys.stdout.write(write_notes(notes_of(found.onset_s, strength=found.strength)))
