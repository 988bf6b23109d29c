"""A player is a user of the site."""

from django.contrib.auth.models import AbstractUser
from django.db import models

LOCAL = "local"


class Player(AbstractUser):
    """Someone who plays; until accounts come there is one, who plays on this machine."""

    display_name = models.CharField(max_length=80, blank=True)
    instrument = models.CharField(max_length=80, blank=True)

    def __str__(self) -> str:
        return ", ".join(filter(None, (self.display_name or self.username, self.instrument)))


def local_player() -> Player:
    """Return the one player of this machine, made when first asked for."""
    return Player.objects.get_or_create(username=LOCAL, defaults={"display_name": "You"})[0]
