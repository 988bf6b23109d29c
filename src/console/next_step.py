"""Say which rung of a ladder to play now, and why."""

from __future__ import annotations

import argparse
from datetime import datetime

from console.files import read_bytes, write_json


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("ladder", metavar="LADDER.json")
    parser.add_argument("attempts", metavar="ATTEMPTS.csv", help="columns at, rung, clean, minutes, optionally off")
    parser.add_argument("--at", metavar="TIME", help="when, ISO 8601 with an offset (now)")
    parser.add_argument("--off", action="store_true", help="that day is an off day")


def run(chosen: argparse.Namespace) -> None:
    """Write the step as JSON, ``step/1``."""
    from giusto.practice.ladder import next_step, parse_attempts, parse_ladder
    from giusto.practice.ladder.attempts_csv import moment

    ladder = parse_ladder(read_bytes(chosen.ladder))
    attempts = parse_attempts(read_bytes(chosen.attempts), rungs=len(ladder.values))
    at = moment(chosen.at, "--at") if chosen.at else datetime.now().astimezone()
    write_json(next_step(ladder, attempts, at=at, off=chosen.off).plain())
