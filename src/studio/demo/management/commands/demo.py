"""Fill the log of the demo's player."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import transaction
from django.utils import timezone

from studio.accounts.models import demo_player
from studio.demo.course import WEEKS, make_demo
from studio.demo.shipped import FILE, bring_in, shipped


class Command(BaseCommand):
    """``./giusto manage demo [--if-new] [--weeks N | --years N | --ship]``."""

    help = "Bring in the invented player that ships with Giusto, or simulate some weeks or years of her."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --if-new, and how long."""
        parser.add_argument("--if-new", action="store_true", help="only where there is none")
        length = parser.add_mutually_exclusive_group()
        length.add_argument("--weeks", type=int, help=f"simulate so many weeks ({WEEKS} are in what ships)")
        length.add_argument("--years", type=int, help="simulate so many years, for a log as long as that")
        length.add_argument("--ship", action="store_true", help="simulate it, and write the file that ships")

    @transaction.atomic
    def handle(self, **options: Any) -> None:
        """Make them, all or none."""
        if options["if_new"] and demo_player():
            return
        now = timezone.localtime()
        if options["ship"]:
            FILE.write_bytes(shipped())
            self.stdout.write(f"{FILE.name}: {FILE.stat().st_size:,} bytes")
            return
        weeks = 52 * int(options["years"]) if options["years"] else options["weeks"]
        if weeks is not None and weeks < 1:
            raise CommandError("give at least one week")
        self.stdout.write("making the demo takes (once)")
        self.stdout.write(f"{bring_in(now) if weeks is None else make_demo(now, weeks)} demo takes made")
