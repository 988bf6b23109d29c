"""Find the rows that no page can load, and put them away."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from studio.archive.unloadable import put_away, unloadable


class Command(BaseCommand):
    """``./giusto manage unloadable [--put-away FILE.json]``."""

    help = "List the rows that can't be loaded; with --put-away, write them to a file and delete them."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --put-away."""
        parser.add_argument("--put-away", type=Path, metavar="FILE.json", help="a new file for what they hold")

    def handle(self, **options: Any) -> None:
        """List them; write and delete them where that is asked."""
        found = list(unloadable())
        for row in found:
            self.stdout.write(str(row))
        path: Path | None = options["put_away"]
        if not found or path is None:
            self.stdout.write(f"{len(found)} rows can't be loaded")
            return
        try:
            with path.open("x", encoding="utf-8") as file:
                json.dump([{"of": row.model._meta.label, **row.content} for row in found], file, indent=1)
        except OSError as error:
            raise CommandError(f"{path} can't be written, so nothing is deleted: {error.strerror}") from None
        for row in found:
            put_away(row)
        self.stdout.write(f"{len(found)} rows are put away in {path}")
