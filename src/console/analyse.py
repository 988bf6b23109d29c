"""Read a take: which silences held, how far the tempo drifted, how sure that is."""

from __future__ import annotations

import argparse
import json
import sys

from console.files import read_notes, read_schedule


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("drill", metavar="DRILL.json")
    parser.add_argument("take", metavar="TAKE.csv", help="onsets: a column time_s, ascending")


def run(chosen: argparse.Namespace) -> None:
    """Write the reading as JSON."""
    plan, notes = read_schedule(chosen.drill), read_notes(chosen.take)
    from giusto.reading.analyse import analyse  # scipy takes a third of a second: bad files answer sooner

    json.dump(analyse(plan, notes).reading.plain(), sys.stdout, indent=1, allow_nan=False)
    sys.stdout.write("\n")
