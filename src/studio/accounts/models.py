"""A player is a user of the site."""

from __future__ import annotations

from zoneinfo import available_timezones

from django.contrib.auth.models import AbstractUser
from django.core.exceptions import ValidationError
from django.db import models

from studio.vocabulary import Countings, NoteNames

LOCAL, DEMO = "local", "demo"


def validate_zone(name: str) -> None:
    """Refuse what is no time zone."""
    if name not in available_timezones():
        raise ValidationError("A time zone such as Europe/Vienna, please.")


class Player(AbstractUser):
    """Someone who plays: until accounts come, the one of this machine, and the invented one of the demo."""

    display_name = models.CharField("Name", max_length=80, blank=True)
    instrument = models.CharField(max_length=80, blank=True)
    time_zone = models.CharField(max_length=60, blank=True, validators=[validate_zone])
    note_names = models.CharField(max_length=10, choices=NoteNames.choices, default=NoteNames.AMERICAN)
    counts = models.CharField("Counted aloud", max_length=10, choices=Countings.choices, default=Countings.SYLLABLES)

    def __str__(self) -> str:
        return ", ".join(filter(None, (self.display_name or "You", self.instrument)))

    @property
    def is_demo(self) -> bool:
        """Whether this is the invented player of the demo."""
        return self.username == DEMO


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
    return Player.objects.get_or_create(username=LOCAL)[0]


def demo_player() -> Player | None:
    """Return the player of the demo, where there is one."""
    return Player.objects.filter(username=DEMO).first()
