"""A player's own drills, and how the click reaches them."""

import uuid

from django.db import models
from django.db.models.functions import Lower
from django.urls import reverse

from giusto.drill.identity import KEY_LENGTH
from studio.accounts.models import Player
from studio.drills.shelf import FAMILIES


class OwnDrillQuerySet(models.QuerySet["OwnDrill"]):
    """Which drills a question is about."""

    def of(self, player: Player) -> "OwnDrillQuerySet":
        """Leave only the player's own, deleted ones included (for undo)."""
        return self.filter(player=player)

    def visible_to(self, player: Player) -> "OwnDrillQuerySet":
        """Leave only the player's own that are not deleted."""
        return self.of(player).filter(deleted_at=None)

    def deleted(self, player: Player) -> "OwnDrillQuerySet":
        """Leave only the player's own that were deleted."""
        return self.of(player).exclude(deleted_at=None)

    def named(self, name: str) -> "OwnDrillQuerySet":
        """Leave only those of a name, however it is capitalised."""
        return self.filter(name__iexact=name)


class OwnDrill(models.Model):
    """A drill that a player made or imported."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="drills")
    name = models.CharField(max_length=120)
    family = models.CharField(max_length=10, choices=[(key, name) for key, (name, _) in FAMILIES.items()])
    spec = models.JSONField(help_text="drill/1 or drill/2")
    drill_key = models.CharField(max_length=KEY_LENGTH, blank=True, db_index=True, help_text="without name and tempo")
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = OwnDrillQuerySet.as_manager()

    class Meta:
        ordering = ["name", "created_at"]
        constraints = [
            models.UniqueConstraint(
                "player", Lower("name"), condition=models.Q(deleted_at=None), name="one_own_drill_a_name"
            )
        ]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Return the address of its sentence."""
        return f"{reverse('drills:set')}?drill={self.pk}"


class Delivery(models.Model):
    """How the click reaches a player: sound, sight, touch, in any mix."""

    class Voice(models.TextChoices):
        WOOD = "wood", "wood"
        PIN = "pin", "a pin"
        FELT = "felt", "soft felt"
        LOW = "low", "a low drum"

    class Level(models.TextChoices):
        FAINT = "faint", "faint"
        SOFT = "soft", "soft"
        PLAIN = "plain", "plain"
        LOUD = "loud", "loud"
        FULL = "full", "as loud as it goes"

    class Accent(models.TextChoices):
        EQUAL = "equal", "no louder"
        SOME = "some", "a little louder"
        MORE = "more", "clearly louder"

    class Side(models.TextChoices):
        BOTH = "both", "both ears"
        LEFT = "left", "the left ear"
        RIGHT = "right", "the right ear"

    player = models.OneToOneField(Player, on_delete=models.CASCADE, related_name="delivery")
    heard = models.BooleanField(default=True)
    voice = models.CharField(max_length=8, choices=Voice.choices, default=Voice.WOOD)
    level = models.CharField(max_length=8, choices=Level.choices, default=Level.SOFT)
    accent = models.CharField(max_length=8, choices=Accent.choices, default=Accent.SOME)
    side = models.CharField(max_length=8, choices=Side.choices, default=Side.BOTH, help_text="through headphones")
    seen = models.BooleanField(default=False)
    felt = models.BooleanField(default=False)
    care_read_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"how the click reaches {self.player}"


def delivery_of(player: Player) -> Delivery:
    """Return how the click reaches a player; the soft default until they choose."""
    return Delivery.objects.filter(player=player).first() or Delivery(player=player)
