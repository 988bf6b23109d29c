"""``./giusto manage work``: hear and read what waits, sounds and scores, and go on waiting."""

from __future__ import annotations

import time
from typing import Any

from django.core.management import BaseCommand, CommandParser, call_command

from studio.recordings.actions import hear_again
from studio.scores.actions import read_again as read_scores_again
from studio.takes.waiting import read_again

IDLE_S = 0.7


class Command(BaseCommand):
    """Work through the queue in the database."""

    help = "Hear recordings and takes, and read scores, as they come; what a dead worker left is put in line anew."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add this command's arguments."""
        parser.add_argument("--once", action="store_true", help="end when nothing waits any more")

    def handle(self, *args: Any, **options: Any) -> None:
        """Work until told to stop."""
        while True:
            hear_again()
            read_again()
            read_scores_again()
            call_command("db_worker", batch=True, startup_delay=False, reload=False, verbosity=0)
            if options["once"]:
                return
            time.sleep(IDLE_S)
