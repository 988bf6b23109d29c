"""Forget what was to be forgotten."""

from typing import Any

from django.core.management.base import BaseCommand

from studio.recordings.sweeping import sweep


class Command(BaseCommand):
    """``./giusto manage sweep``."""

    help = "Forget what was to be forgotten and is still there: sounds without a take, parts of uploads, tasks done."

    def handle(self, **options: Any) -> None:
        """Sweep, and tell what was found."""
        found = sweep()
        self.stdout.write(", ".join(f"{count} {what}" for what, count in found.items()) or "nothing was left to sweep")
