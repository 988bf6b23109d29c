"""``./giusto studio --owner NAME``: the player of this machine becomes the owner's account, rows unmoved."""

from __future__ import annotations

import getpass
import sys
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from studio.accounts.models import DEMO, Player, local_player


class Command(BaseCommand):
    """``./giusto manage own NAME``."""

    help = "makes the player of this machine the owner of a studio: name to sign in with, and a password"

    def add_arguments(self, parser: CommandParser) -> None:
        """Take the name to sign in with."""
        parser.add_argument("name")
        parser.add_argument("--password", help="for tests; else it is asked for, or read from the standard input")

    def handle(self, *args: Any, **options: Any) -> None:
        """Give the local player a name and a password."""
        name, player = options["name"].strip(), local_player()
        if name.lower() == DEMO or Player.objects.filter(username__iexact=name).exclude(pk=player.pk).exists():
            raise CommandError(f"'{name}' is somebody else's name: choose another")
        player.username, player.role, player.is_active = name, Player.Role.OWNER, True
        password = options["password"] or _asked()
        try:
            Player.username_validator(name)
            validate_password(password, player)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        player.set_password(password)
        with transaction.atomic():
            player.save()
        self.stdout.write(f"{name} owns the studio, with all that was played on this machine")


def _asked() -> str:
    """Return a password, typed twice at a terminal, or one line from elsewhere."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    while True:
        first, second = getpass.getpass("A password: "), getpass.getpass("Once more: ")
        if first == second:
            return first
        print("These are two different ones.", file=sys.stderr)
