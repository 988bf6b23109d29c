"""Write the drill that asks for a passage of a score."""

from __future__ import annotations

import argparse
import re
import sys

from console.files import read_bytes, write_json


def a_key(text: str) -> str:
    """Return a transposition in semitones."""
    if not re.fullmatch(r"[+-]?[0-9]{1,2}", text):
        raise argparse.ArgumentTypeError(f"{text!r} is no number of semitones such as +3")
    return f"{int(text):+d}"


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("score", metavar="SCORE", help=".musicxml, .mxl or .mid")
    parser.add_argument("--part", metavar="P", help="a part by name or number, where there are several")
    parser.add_argument("--bars", metavar="5-8", help="printed numbers (all)")
    parser.add_argument("--hand", choices=["upper", "lower"], help="one hand of a part on two staves (both)")
    parser.add_argument("--key", type=a_key, metavar="+3", help="semitones up or down: in the name, onsets stay")


def run(chosen: argparse.Namespace) -> None:
    """Write the drill as JSON; what was left out is said on standard error."""
    from giusto.drill.passage import chosen_bars, passage_drill, read_score
    from giusto.errors import GiustoError

    score = read_score(read_bytes(chosen.score))
    part = score.part(chosen.part)
    hand = chosen.hand or ""
    if hand not in part.hands:
        raise GiustoError(f'the hand is "{hand}", and the part "{part.name}" is on one staff', code="hand")
    bars = chosen_bars(part.hands[hand], chosen.bars)
    key = f"{chosen.key} semitones" if chosen.key else ""
    where = f"bars {chosen.bars}" if chosen.bars and "-" in chosen.bars else f"bar {chosen.bars}" if chosen.bars else ""
    name = ", ".join(filter(None, (score.title or part.name, where, f"{hand} hand" if hand else "", key)))
    drill = passage_drill(bars, quarters_a_minute=score.quarters_a_minute, name=name)
    if grace := sum(bar.grace for bar in bars):
        print(f"giusto passage: {grace} grace note{'s' if grace > 1 else ''} left out", file=sys.stderr)
    if score.quarters_a_minute is None:
        print("giusto passage: the score says no tempo: 60 quarters a minute", file=sys.stderr)
    write_json(drill.plain())
