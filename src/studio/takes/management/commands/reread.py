"""Compute readings anew from the raw material, by the core as it is now; and those that are missing."""

from argparse import ArgumentParser

from django.core.management.base import BaseCommand

import giusto
from studio.takes.models import Take
from studio.takes.reading import hear_and_read

EVERY = 100  # takes between two lines that tell how far it is


class Command(BaseCommand):
    """``./giusto manage reread [--all]``."""

    help = "Read the takes that were not read yet, or by an older core; all of them with --all."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --all."""
        parser.add_argument("--all", action="store_true", help="readings of this core's version too")

    def handle(self, **options: object) -> None:
        """Read the takes one by one; one that can't be read keeps its refusal and stops no other."""
        takes = Take.objects.ended()
        if not options["all"]:
            takes = takes.exclude(reading__core_version=giusto.__version__)
        waiting = list(takes.order_by("-started_at").values_list("pk", flat=True))
        refused = 0
        for done, pk in enumerate(waiting, start=1):
            refused += bool(hear_and_read(pk).refusal_code)
            if done % EVERY == 0:
                self.stdout.write(f"{done} of {len(waiting)} takes read")
        self.stdout.write(f"{len(waiting)} takes read by core {giusto.__version__}, {refused} of them refused")
