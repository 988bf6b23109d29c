"""Build a part up note by note: one drill a line, from the notes on the click to all of it."""

from __future__ import annotations

import argparse
import json
import sys

from console.files import read_bytes
from giusto.drill import parse


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("drill", metavar="DRILL.json")


def run(chosen: argparse.Namespace) -> None:
    """Write the stages, each a drill file in one line."""
    from giusto.practice.build_up import build_up

    for stage in build_up(parse(read_bytes(chosen.drill))):
        sys.stdout.write(f"{json.dumps(stage.plain(), ensure_ascii=False)}\n")
