"""Compute readings anew from the raw material, by the core as it is now."""

from argparse import ArgumentParser

from django.core.management.base import BaseCommand
from django.db import transaction

import giusto
from studio.takes.models import Take
from studio.takes.reading import read_take


class Command(BaseCommand):
    """``./giusto manage reread [--all]``."""

    help = "Compute readings anew from the raw material; those of an older core unless --all is given."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --all."""
        parser.add_argument("--all", action="store_true", help="readings of this core's version too")

    def handle(self, **options: object) -> None:
        """Read the takes, one transaction each."""
        takes = Take.objects.ended()
        if not options["all"]:
            takes = takes.exclude(reading__core_version=giusto.__version__)
        total = 0
        for take in takes.iterator(chunk_size=100):
            with transaction.atomic():
                read_take(take)
            total += 1
        self.stdout.write(f"{total} takes read by core {giusto.__version__}")
