"""A player's routine, the weeks that they chose, and the days on which they practise."""

import secrets
import uuid

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import OuterRef, Subquery, Value
from django.db.models.functions import Coalesce, Lower

from giusto.plan.routine import Routine as CoreRoutine
from giusto.plan.routine import routine_of
from studio.accounts.models import Player
from studio.drills.models import OwnDrill
from studio.drills.shelf import shelf
from studio.exercises.models import Exercise
from studio.ladders.models import Ladder
from studio.pieces.models import Piece

TOKEN_BYTES = 32
REPEATS, LOW, HIGH = 3, 70, 85  # common practice: three times each; mostly right with a miss now and then


def new_token() -> str:
    """Return an address that nobody guesses."""
    return secrets.token_urlsafe(TOKEN_BYTES)


class Routine(models.Model):
    """When, how long and what a player practises; and the private address of their calendar."""

    player = models.OneToOneField(Player, on_delete=models.CASCADE, related_name="routine")
    spec = models.JSONField(help_text="routine/1")
    repeats = models.PositiveSmallIntegerField(
        default=REPEATS, validators=[MinValueValidator(1), MaxValueValidator(20)], help_text="one more on an off day"
    )
    low = models.PositiveSmallIntegerField(default=LOW, help_text="of a hundred takes clean, at least")
    high = models.PositiveSmallIntegerField(default=HIGH, help_text="at most")
    weekly_minutes = models.PositiveSmallIntegerField(null=True, blank=True, help_text="a goal")
    alarm_minutes = models.PositiveSmallIntegerField(null=True, blank=True, help_text="before a session")
    token = models.CharField(max_length=64, null=True, blank=True, unique=True, help_text="of the calendar's address")

    def __str__(self) -> str:
        return f"the routine of {self.player}"

    @property
    def core(self) -> CoreRoutine:
        """The routine as the core's own type."""
        return routine_of(self.spec)


class EntryQuerySet(models.QuerySet["Entry"]):
    """Which entries a question is about."""

    def of(self, player: Player) -> "EntryQuerySet":
        """Leave only the player's own."""
        return self.filter(player=player)

    def called(self) -> "EntryQuerySet":
        """Bring the name that each one's ladder, piece or drill has now."""
        ladders = Ladder.objects.filter(exercise=OuterRef("exercise"), deleted_at=None)
        pieces = Piece.objects.kept().filter(pk=OuterRef("piece"), deleted_at=None)
        own = OwnDrill.objects.filter(pk=OuterRef("own_drill"), deleted_at=None)
        names = [Subquery(some.values("name")[:1]) for some in (ladders, pieces, own)]
        return self.annotate(now=Coalesce(*names, Value("")))


class Entry(models.Model):
    """A name that a plan uses, and the ladder's exercise, the piece or the drill that it stands for."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="entries")
    name = models.CharField(max_length=120, help_text="as its player wrote it; what it stands for may be renamed")
    exercise = models.ForeignKey(Exercise, on_delete=models.SET_NULL, null=True, blank=True, related_name="entries")
    piece = models.ForeignKey(Piece, on_delete=models.SET_NULL, null=True, blank=True, related_name="entries")
    own_drill = models.ForeignKey(OwnDrill, on_delete=models.SET_NULL, null=True, blank=True, related_name="entries")
    slug = models.CharField(max_length=60, blank=True, help_text="of a drill of the shelf")

    objects = EntryQuerySet.as_manager()

    class Meta:
        constraints = [models.UniqueConstraint("player", Lower("name"), name="one_entry_a_name")]

    def __str__(self) -> str:
        return self.name

    @property
    def target(self) -> tuple[object, ...] | None:
        """What it stands for, to compare; None for nothing, and for reach, which has no row."""
        found = (self.exercise_id, self.piece_id, self.own_drill_id, self.slug)
        return found if any(found) else None

    @property
    def is_drill(self) -> bool:
        """Whether it stands for a drill that is played as it is: of the shelf, or the player's own."""
        return bool(self.slug or self.own_drill_id)

    @property
    def called(self) -> str:
        """The name of what it stands for, as it is now (needs ``called``); ``""`` where nothing is there."""
        built_in = shelf().get(self.slug)
        return str(getattr(self, "now", "")) or (built_in.name if built_in else "")

    def stand_for(self, other: "Entry") -> None:
        """Stand for what another stands for."""
        self.exercise_id, self.piece_id, self.own_drill_id = other.exercise_id, other.piece_id, other.own_drill_id
        self.slug = other.slug


class Week(models.Model):
    """A week whose days were chosen before it began, and what is to come of it."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="weeks")
    monday = models.DateField()
    days = models.JSONField(null=True, help_text="dates; null for those of the routine")
    goal = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["monday"]
        constraints = [models.UniqueConstraint(fields=["player", "monday"], name="one_week_a_monday")]

    def __str__(self) -> str:
        return f"the week of {self.monday}"


class Day(models.Model):
    """How a day is gone through: how long, what was left out or put in another's place, begun and closed."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="days")
    day = models.DateField()
    minutes = models.PositiveSmallIntegerField(null=True, blank=True, help_text="the routine's own where not said")
    began_at = models.DateTimeField(null=True, blank=True, help_text="since then each take leads to the next")
    closed_at = models.DateTimeField(null=True, blank=True)
    rested_at = models.DateTimeField(null=True, blank=True, help_text="when a pause was waved away")
    over = models.JSONField(default=list, help_text="slots that are done or skipped: block, entry, key")
    swapped = models.JSONField(default=dict, help_text="the entry that is played in a slot's place")

    class Meta:
        ordering = ["-day"]
        constraints = [models.UniqueConstraint(fields=["player", "day"], name="one_day_a_date")]

    def __str__(self) -> str:
        return f"{self.day:%Y-%m-%d} of {self.player}"
