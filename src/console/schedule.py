"""List every click of a drill, or every note that it asks for, as CSV."""

from __future__ import annotations

import argparse
import csv
import sys

from console.files import read_schedule
from giusto.schedule import Schedule
from giusto.schedule.layout import Grid


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("drill", metavar="DRILL.json")
    parser.add_argument("--notes", action="store_true", help="list the notes of the part instead")


def run(chosen: argparse.Namespace) -> None:
    """Write the CSV."""
    plan = read_schedule(chosen.drill)
    rows = csv.writer(sys.stdout, lineterminator="\r\n")
    if chosen.notes:
        rows.writerow(("time_s", "cycle", "position"))
        rows.writerows(_places(plan, plan.notes))
    else:
        rows.writerow(("time_s", "cycle", "position", "kind"))
        places = _places(plan, plan.clicks)
        rows.writerows((*place, kind) for place, kind in zip(places, plan.kinds.tolist(), strict=True))


def _places(plan: Schedule, grid: Grid) -> list[tuple[str, int, str]]:
    names = {offset: plan.position(offset) for offset in set(grid.offset.tolist())}
    times = plan.seconds(grid.tick).tolist()
    return [
        (f"{time_s:.9f}", cycle, names[offset])
        for time_s, cycle, offset in zip(times, grid.cycle.tolist(), grid.offset.tolist(), strict=True)
    ]
