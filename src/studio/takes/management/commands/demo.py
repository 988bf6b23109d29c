"""Fill the local player's log with the demo takes."""

from argparse import ArgumentParser

from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from studio.accounts.models import LOCAL, Player, local_player
from studio.takes.demo import make_demo


class Command(BaseCommand):
    """``./giusto manage demo [--if-new]``."""

    help = "Make eight weeks of takes of an invented player."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --if-new."""
        parser.add_argument("--if-new", action="store_true", help="only where nobody has played here yet")

    @transaction.atomic
    def handle(self, **options: object) -> None:
        """Make them, all or none."""
        if options["if_new"] and Player.objects.filter(username=LOCAL).exists():
            return
        self.stdout.write("making the demo takes (once)")
        self.stdout.write(f"{make_demo(local_player(), timezone.localtime())} demo takes made")
