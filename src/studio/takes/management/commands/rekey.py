"""Compute the keys of drills anew, by the core as it is now."""

from argparse import ArgumentParser

from django.core.management.base import BaseCommand

from studio.takes.rekey import rekey, stale


class Command(BaseCommand):
    """``./giusto manage rekey [--if-stale]``."""

    help = (
        "Compute the keys of all drills, takes and exercises anew; --if-stale: only where some are of an earlier rule."
    )

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --if-stale."""
        parser.add_argument("--if-stale", action="store_true", help="do nothing where all keys are of this version")

    def handle(self, **options: object) -> None:
        """Compute them, all or none."""
        if not options["if_stale"] or stale():
            self.stdout.write(f"{rekey()} keys computed anew")
