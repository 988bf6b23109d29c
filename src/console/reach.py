"""Say how long a silence a player bridges, and which length to try next."""

from __future__ import annotations

import argparse

from console.files import read_bytes, write_json


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("silences", metavar="SILENCES.csv", help="columns beats and held (1 or 0)")
    parser.add_argument("--next", action="store_true", help="accepted; the next length to try is always written")


def run(chosen: argparse.Namespace) -> None:
    """Write the reach as JSON, ``reach/1``."""
    from giusto.practice.reach import parse_silences, reach

    found = reach(*parse_silences(read_bytes(chosen.silences)))
    write_json(found.plain())
