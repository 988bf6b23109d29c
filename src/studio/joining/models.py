"""Codes that are used once, and a line for each thing that somebody else did with a player's account or looked at."""

from __future__ import annotations

import secrets
from datetime import timedelta

from django.db import models
from django.utils import timezone
from django.utils.crypto import pbkdf2

from studio.accounts.models import Player

LETTERS = "ABCDEFGHJKMNPQRSTVWXYZ23456789"  # none that looks like another
LENGTH = 8
SALT, ROUNDS = "giusto code", 100_000  # one salt: a code is looked for by its digest; it lives for half an hour
LASTS = timedelta(minutes=30)
INVITED, LET_IN, LESSON = "invited", "let-in", "lesson"  # in a session: a code that was used, by its number


class CodeQuerySet(models.QuerySet["Code"]):
    """Which codes a question is about."""

    def good(self) -> CodeQuerySet:
        """Leave only those that can still be used."""
        return self.filter(used_at=None, ends_at__gt=timezone.now())

    def named(self, text: str, kind: str) -> CodeQuerySet:
        """Leave only the good code that somebody typed, of one kind."""
        return self.good().filter(digest=digest_of(text), kind=kind)

    def use(self, text: str, kind: str) -> Code | None:
        """Use a code, by one statement: of two who type it at once, one has it; None where it is no good."""
        code = self.named(text, kind).first()
        if code is None or not self.good().filter(pk=code.pk).update(used_at=timezone.now()):
            return None
        return code


class Code(models.Model):
    """Eight letters that somebody shows to somebody; only a digest of them is kept."""

    class Kind(models.TextChoices):
        ACCOUNT = "account", "a new account"
        BACK = "back", "a new password"
        LESSON = "lesson", "a teacher and a pupil"

    digest = models.CharField(max_length=64, unique=True)
    kind = models.CharField(max_length=7, choices=Kind.choices)
    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="codes", help_text="who made it")
    whose = models.ForeignKey(
        Player, on_delete=models.CASCADE, null=True, blank=True, related_name="+", help_text="who is let in again"
    )
    ends_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True, blank=True)

    objects = CodeQuerySet.as_manager()

    def __str__(self) -> str:
        return f"{self.get_kind_display()}, until {self.ends_at:%H:%M}"


def make_code(by: Player, kind: str, *, whose: Player | None = None) -> str:
    """Make a code and return its letters, which nobody can ask for again: ``"ABCD-2345"``."""
    letters = "".join(secrets.choice(LETTERS) for _ in range(LENGTH))
    Code.objects.filter(ends_at__lt=timezone.now() - timedelta(days=1)).delete()
    Code.objects.create(digest=digest_of(letters), kind=kind, player=by, whose=whose, ends_at=timezone.now() + LASTS)
    return f"{letters[:4]}-{letters[4:]}"


def digest_of(text: str) -> str:
    """Return what is kept of a code, however it was typed: small letters, spaces and hyphens are no matter."""
    letters = "".join(letter for letter in text.upper() if letter.isalnum())[: 2 * LENGTH]
    return pbkdf2(letters, SALT, ROUNDS).hex()


class AuditLine(models.Model):
    """What somebody else did or looked at, for the player to read; written once, and never changed.

    The site's own role of the database may add lines and read them, and nothing else (``launch/roles.py``); they go
    with the player by the database's own rule.
    """

    player = models.ForeignKey(
        Player, on_delete=models.DO_NOTHING, db_constraint=False, related_name="audit", help_text="whose it is"
    )
    by = models.CharField(max_length=150, help_text="the name of who did it: an account may go, the line stays")
    what = models.CharField(max_length=200)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at"]
        indexes = [models.Index(fields=["player", "-at"], name="audit_by_player")]

    def __str__(self) -> str:
        return f"{self.by}: {self.what}"


def note(player: Player, by: Player, what: str) -> None:
    """Write down for a player what somebody else did."""
    AuditLine.objects.create(player=player, by=by.display_name or by.username, what=what[:200])
