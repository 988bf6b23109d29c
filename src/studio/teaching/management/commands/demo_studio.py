"""``./giusto manage demo_studio``: an invented teacher and five pupils, to look around as them."""

from __future__ import annotations

import secrets
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction
from django.utils import timezone

from studio.teaching.demo import PUPILS, TEACHER, make_studio, take_away


class Command(BaseCommand):
    """``./giusto manage demo_studio [--away]``."""

    help = "Make an invented studio, one teacher and five pupils, in place of the one that is there; or take it away."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add --away, and a password for tests."""
        parser.add_argument("--away", action="store_true", help="take it away")
        parser.add_argument("--password", help="of all of them; a new one where none is given")

    @transaction.atomic
    def handle(self, **options: Any) -> None:
        """Make them, all or none."""
        if options["away"]:
            take_away()
            self.stdout.write("the invented studio is gone")
            return
        password = options["password"] or secrets.token_urlsafe(9)
        takes = make_studio(timezone.localtime(), password)
        names = ", ".join(f"demo-{name}" for name in (TEACHER[0], *(pupil.name for pupil in PUPILS)))
        self.stdout.write(f"{takes} takes made. Sign in as {names}; the password is {password}")
