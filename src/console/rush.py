"""Say into which notes of a drill time is gained or lost, over takes."""

from __future__ import annotations

import argparse

from console.files import read_notes, read_schedule, write_json


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("drill", metavar="DRILL.json")
    parser.add_argument("takes", metavar="TAKE.csv", nargs="+", help="onsets: a column time_s, ascending")


def run(chosen: argparse.Namespace) -> None:
    """Write the map as JSON, ``rush/1``."""
    plan = read_schedule(chosen.drill)
    notes = [read_notes(path) for path in chosen.takes]
    from giusto.practice.rush import map_of, plain_map
    from giusto.reading import analyse

    readings = [analyse(plan, each).reading for each in notes]
    write_json(plain_map(map_of(plan, readings), len(readings)))
