"""Fill the log of the demo's player."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import transaction
from django.utils import timezone

from studio.accounts.models import demo_player
from studio.demo.course import WEEKS, make_demo


class Command(BaseCommand):
    """``./giusto manage demo [--if-new] [--weeks N | --years N]``."""

    help = "Make takes of an invented player, eight weeks unless said otherwise."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --if-new, and how long."""
        parser.add_argument("--if-new", action="store_true", help="only where there is none")
        length = parser.add_mutually_exclusive_group()
        length.add_argument("--weeks", type=int, default=WEEKS, help=f"how many weeks ({WEEKS})")
        length.add_argument("--years", type=int, help="how many years instead, for a log as long as that")

    @transaction.atomic
    def handle(self, **options: Any) -> None:
        """Make them, all or none."""
        if options["if_new"] and demo_player():
            return
        self.stdout.write("making the demo takes (once)")
        weeks = 52 * int(options["years"]) if options["years"] else int(options["weeks"])
        if weeks < 1:
            raise CommandError("give at least one week")
        self.stdout.write(f"{make_demo(timezone.localtime(), weeks)} demo takes made")
