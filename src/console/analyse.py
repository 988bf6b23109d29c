"""Read a take: which silences held, how far the tempo drifted, how sure that is."""

from __future__ import annotations

import argparse
from pathlib import Path

from console.files import read_notes, read_schedule, write_json
from giusto.hearing.content import content_of


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("drill", metavar="DRILL.json")
    about = "onsets (a column time_s, ascending), or a recording made while the click played: sound or MIDI"
    parser.add_argument("take", metavar="TAKE.csv", help=about)


def run(chosen: argparse.Namespace) -> None:
    """Write the reading as JSON."""
    plan = read_schedule(chosen.drill)
    if content_of(Path(chosen.take)) != "text":
        from giusto.hearing.recording import recorded
        from giusto.reading import analyse
        from giusto.reading.recorded import of_recording

        recording = recorded(Path(chosen.take), plan)
        read = of_recording(analyse(plan, recording.notes).reading, recording)
    else:
        notes = read_notes(chosen.take)
        from giusto.reading.analyse import analyse as analyse_notes  # scipy takes a third of a second

        read = analyse_notes(plan, notes).reading
    write_json(read.plain())
