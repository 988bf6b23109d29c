"""Write what to practise on which day, by a routine."""

from __future__ import annotations

import argparse
from datetime import UTC, date, datetime
from pathlib import Path

from console.files import read_bytes, write_json


def a_date(text: str) -> date:
    """Return a date."""
    try:
        found = date.fromisoformat(text)
    except ValueError:
        found = None
    if found is None or text != found.isoformat():
        raise argparse.ArgumentTypeError(f'{text!r} is no date such as "2026-11-30"')
    return found


def whole(text: str) -> int:
    """Return a whole number from 1."""
    if not text.isascii() or not text.isdecimal() or len(text) > 9 or int(text) == 0:
        raise argparse.ArgumentTypeError(f"{text!r} is no whole number from 1")
    return int(text)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("routine", metavar="ROUTINE.json", help="routine/1")
    parser.add_argument("--from", dest="start", type=a_date, required=True, metavar="DATE", help="the first day")
    parser.add_argument("--days", type=whole, required=True, metavar="N", help="how many days are looked at")
    parser.add_argument("--minutes", type=whole, metavar="M", help="of each session (the routine's own)")
    parser.add_argument("--ics", dest="out", type=Path, metavar="OUT.ics", help="write a calendar file as well")
    parser.add_argument("--alarm", type=whole, metavar="M", help="remind so many minutes before (no alarm)")


def run(chosen: argparse.Namespace) -> None:
    """Write the plan as JSON, ``plan/1``."""
    from giusto.plan.days import plain_plan, plan
    from giusto.plan.routine import parse_routine

    routine = parse_routine(read_bytes(chosen.routine))
    slots = plan(routine, start=chosen.start, days=chosen.days, minutes=chosen.minutes)
    if chosen.out:
        from giusto.plan.calendar_file import calendar_file

        chosen.out.write_bytes(calendar_file(routine, slots, made=datetime.now(UTC), alarm_minutes=chosen.alarm))
    write_json(plain_plan(routine, slots))
