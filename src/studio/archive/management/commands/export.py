"""Write all that the player of this machine has into one archive."""

import sys
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from studio.accounts.models import local_player
from studio.archive.writing import write_archive


class Command(BaseCommand):
    """``./giusto manage export FILE.zip``."""

    help = "Write every take, drill, ladder, attempt, routine, piece and note into one archive of open files."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add the file."""
        parser.add_argument("file", type=Path, metavar="FILE.zip", help="- writes to what the command's output goes to")

    def handle(self, **options: Any) -> None:
        """Write it beside its place, and put it there when it is whole."""
        path: Path = options["file"]
        if str(path) == "-":
            counts = write_archive(local_player(), sys.stdout.buffer)
            self.stderr.write(", ".join(f"{count} {name}" for name, count in counts.items()))
            return
        part = path.with_name(f".{path.name}.part")
        try:
            with part.open("wb") as file:
                counts = write_archive(local_player(), file)
            part.replace(path)
        except OSError as error:
            raise CommandError(f"{path} can't be written: {error.strerror}") from None
        finally:
            part.unlink(missing_ok=True)
        self.stdout.write(", ".join(f"{count} {name}" for name, count in counts.items()))
