"""A player is a user of the site."""

from __future__ import annotations

from zoneinfo import available_timezones

from django.contrib.auth.models import AbstractUser
from django.core.exceptions import ValidationError
from django.db import models

from studio.vocabulary import Countings, NoteNames

LOCAL, DEMO = "local", "demo"
INVENTED = "demo-"  # how the names of the invented studio begin


def validate_zone(name: str) -> None:
    """Refuse what is no time zone."""
    if name not in available_timezones():
        raise ValidationError("A time zone such as Europe/Vienna, please.")


class Player(AbstractUser):
    """Someone who plays: the one of this machine, whoever has an account, and the invented one of the demo."""

    class Role(models.TextChoices):
        PLAYER = "player", "plays"
        TEACHER = "teacher", "plays and teaches"
        OWNER = "owner", "plays, teaches and looks after the studio"

    display_name = models.CharField("Name", max_length=80, blank=True)
    instrument = models.CharField(max_length=80, blank=True)
    time_zone = models.CharField(max_length=60, blank=True, validators=[validate_zone])
    note_names = models.CharField(max_length=10, choices=NoteNames.choices, default=NoteNames.AMERICAN)
    counts = models.CharField("Counted aloud", max_length=10, choices=Countings.choices, default=Countings.SYLLABLES)
    is_local = models.BooleanField(default=False, help_text="whom ./giusto start signs in, whatever their name")
    role = models.CharField(max_length=8, choices=Role.choices, default=Role.PLAYER)
    passkey_offered_at = models.DateTimeField(null=True, blank=True)
    leaves_at = models.DateTimeField(
        null=True, blank=True, help_text="when all of theirs is deleted: they asked for it"
    )

    class Meta(AbstractUser.Meta):
        constraints = [
            models.UniqueConstraint(fields=["is_local"], condition=models.Q(is_local=True), name="one_local_player")
        ]

    def __str__(self) -> str:
        return ", ".join(filter(None, (self.display_name or "You", self.instrument)))

    @property
    def is_demo(self) -> bool:
        """Whether this is the invented player of the demo, or one of the invented studio."""
        return self.username == DEMO or self.username.startswith(INVENTED)

    @property
    def teaches(self) -> bool:
        """Whether they may have pupils."""
        return self.is_active and self.role in (self.Role.TEACHER, self.Role.OWNER)

    @property
    def is_owner(self) -> bool:
        """Whether they look after the studio: who is in it, and what each may."""
        return self.is_active and self.role == self.Role.OWNER


class Answered(models.Model):
    """A form that was answered a moment ago, and where that led: sent twice at once, it is done once."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="answered")
    digest = models.CharField(max_length=64)
    location = models.TextField()
    at = models.DateTimeField()

    class Meta:
        indexes = [models.Index(fields=["player", "digest"], name="answered_by_digest")]

    def __str__(self) -> str:
        return f"{self.location}, {self.at:%H:%M:%S}"


def local_player() -> Player:
    """Return the one player of this machine, made when first asked for."""
    return Player.objects.get_or_create(is_local=True, defaults={"username": LOCAL})[0]


def demo_player() -> Player | None:
    """Return the player of the demo, where there is one."""
    return Player.objects.filter(username=DEMO).first()
