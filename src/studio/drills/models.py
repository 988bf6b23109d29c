"""A player's own drills, and how the click reaches them."""

import uuid

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models.functions import Lower
from django.urls import reverse
from django.utils import timezone

from giusto.drill.identity import KEY_LENGTH
from studio.accounts.models import Player
from studio.drills.shelf import FAMILIES

OWN = "own-"  # before the key of an own click


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


class OwnClickQuerySet(models.QuerySet["OwnClick"]):
    """Which clicks a question is about."""

    def of(self, player: Player) -> "OwnClickQuerySet":
        """Leave only the player's own."""
        return self.filter(player=player)


class OwnClick(models.Model):
    """A sound of the player's own for the click. It stays while takes were played to it, though it be put away."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="clicks")
    key = models.CharField(max_length=16, help_text="of its samples")
    name = models.CharField(max_length=40)
    samples = models.BinaryField(help_text="16 bits each, little-endian, 48,000 a second, its onset first")
    pitch_hz = models.FloatField(validators=[MinValueValidator(20), MaxValueValidator(20_000)])
    made_at = models.DateTimeField(default=timezone.now)
    put_away_at = models.DateTimeField(null=True, blank=True)

    objects = OwnClickQuerySet.as_manager()

    class Meta:
        ordering = ["name", "made_at"]
        constraints = [models.UniqueConstraint("player", "key", name="one_own_click_a_key")]

    def __str__(self) -> str:
        return self.name

    @property
    def voice(self) -> str:
        """What a delivery and a take call it."""
        return f"{OWN}{self.key}"


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
    voice = models.CharField(max_length=24, default=Voice.WOOD, help_text="one of ours, or the voice of an own click")
    accent_voice = models.CharField(
        max_length=24, blank=True, default="", db_default="", help_text="of accents, where it is another"
    )
    level = models.CharField(max_length=8, choices=Level.choices, default=Level.SOFT)
    accent = models.CharField(max_length=8, choices=Accent.choices, default=Accent.SOME)
    side = models.CharField(max_length=8, choices=Side.choices, default=Side.BOTH, help_text="through headphones")
    counted = models.BooleanField(
        default=False, db_default=False, help_text="whether each click is counted aloud as well"
    )
    seen = models.BooleanField(default=False)
    felt = models.BooleanField(default=False)
    care_read_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"how the click reaches {self.player}"


def delivery_of(player: Player) -> Delivery:
    """Return how the click reaches a player; the soft default until they choose."""
    return Delivery.objects.filter(player=player).first() or Delivery(player=player)
