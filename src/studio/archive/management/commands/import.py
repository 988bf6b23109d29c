"""Bring an archive into an empty Giusto."""

import sys
from argparse import ArgumentParser
from contextlib import nullcontext
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from studio.accounts.models import local_player
from studio.archive.layout import ArchiveError
from studio.archive.reading import read_archive


class Command(BaseCommand):
    """``./giusto manage import FILE.zip``."""

    help = "Bring in an archive that ./giusto manage export wrote: all of it, or nothing."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add the file."""
        parser.add_argument("file", type=Path, metavar="FILE.zip", help="- reads what the command is given")

    def handle(self, **options: Any) -> None:
        """Bring it in and report."""
        try:
            given = str(options["file"]) == "-"
            with nullcontext(sys.stdin.buffer) if given else options["file"].open("rb") as file:
                counts = read_archive(local_player(), file)
        except OSError as error:
            raise CommandError(f"{options['file']} can't be read: {error.strerror}") from None
        except ArchiveError as error:
            raise CommandError(f"Nothing was brought in: {error}.") from None
        self.stdout.write(f"brought in: {', '.join(f'{count} {name}' for name, count in counts.items())}")
