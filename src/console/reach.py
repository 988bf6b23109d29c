"""Say how long a silence a player bridges, and which length to try next."""

from __future__ import annotations

import argparse

from console.files import read_bytes, write_json


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    columns = "columns take, beats, return_beats, sd_beats and perhaps at; or beats and held (1 or 0)"
    parser.add_argument("silences", metavar="SILENCES.csv", help=columns)
    parser.add_argument("--next", action="store_true", help="accepted; the next length to try is always written")


def run(chosen: argparse.Namespace) -> None:
    """Write the reach as JSON: ``reach/2`` of returns, ``reach/1`` of what was held."""
    content = read_bytes(chosen.silences)
    from giusto.practice.reach import is_of_outcomes, parse_returns, parse_silences, reach
    from giusto.practice.reach.by_outcomes import reach_by_outcomes

    if is_of_outcomes(content):
        write_json(reach_by_outcomes(*parse_silences(content)).plain())
    else:
        write_json(reach(parse_returns(content)).plain())
