"""Say whether a figure over takes is better than before, or only otherwise by chance."""

from __future__ import annotations

import argparse

from console.files import read_bytes, write_json


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("figures", metavar="FIGURES.csv", help="columns at, value, sd: one row a take, ascending")


def run(chosen: argparse.Namespace) -> None:
    """Write the change as JSON, ``change/1``."""
    content = read_bytes(chosen.figures)
    from giusto.missing import Missing
    from giusto.practice.course import course, unsaid
    from giusto.practice.figures_csv import parse_figures

    told = parse_figures(content)
    days = [one.date() for one in told.at]
    found = course(told.values, told.sds, days, at=told.days)
    write_json(unsaid(found, days) if isinstance(found, Missing) else found.plain())
