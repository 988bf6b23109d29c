"""What ``./giusto start`` has done behind the pages, once they are there."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand


class Command(BaseCommand):
    """``./giusto manage catch_up``."""

    help = "Sweep what was to be forgotten, make the demo where there is none, read what no reading was made of yet."

    def handle(self, **options: Any) -> None:
        """Do one after the other."""
        call_command("sweep", stdout=self.stdout)
        call_command("demo", "--if-new", stdout=self.stdout)
        call_command("reread", stdout=self.stdout)
