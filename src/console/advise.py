"""Say what a take shows and what to play next, as codes with their evidence."""

from __future__ import annotations

import argparse
from functools import reduce
from typing import TYPE_CHECKING

from console.files import read_notes, read_schedule, write_json

if TYPE_CHECKING:
    from giusto.practice.advice import Earlier
    from giusto.reading import Analysis


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("drill", metavar="DRILL.json")
    parser.add_argument("take", metavar="TAKE.csv", help="onsets: a column time_s, ascending")
    parser.add_argument(
        "--before",
        metavar="TAKE.csv",
        action="append",
        nargs="+",
        default=[],
        help="earlier takes of the same drill, oldest first",
    )


def run(chosen: argparse.Namespace) -> None:
    """Write the judgement as JSON, ``advice/2``."""
    plan, notes = read_schedule(chosen.drill), read_notes(chosen.take)
    earlier_notes = [read_notes(path) for paths in chosen.before for path in paths]
    from giusto.practice.judge import earlier, judge  # as in analyse
    from giusto.reading import analyse
    from giusto.reading.earlier import prior_of
    from giusto.returns.drift import NONE, joined

    known: list[Analysis] = []
    for each in earlier_notes:  # each read as it was when nothing later was known
        known.append(analyse(plan, each, prior=prior_of(known)))
    before: list[Earlier] = []
    for take in known:
        returns = reduce(joined, (one.returns for one in before), NONE)
        before.append(earlier(plan, take.reading, before=returns))
    judgement = judge(plan, analyse(plan, notes, prior=prior_of(known)).reading, before=before)
    write_json(judgement.plain())
