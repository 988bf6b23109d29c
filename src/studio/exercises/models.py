"""An exercise is what a take is a take of; a session is a day's practice."""

from django.db import models
from django.db.models import Q

from giusto.drill.identity import KEY_LENGTH
from studio.accounts.looking import OwnWords
from studio.accounts.models import Player
from studio.drills.models import OwnDrill

CLIMB = "climb-"  # begins the word of an exercise that is played from its ladder


class ExerciseQuerySet(models.QuerySet["Exercise"]):
    """Which exercises a question is about."""

    def of(self, player: Player) -> "ExerciseQuerySet":
        """Leave only the player's own."""
        return self.filter(player=player)

    def climbed(self, player: Player, origin: str) -> "Exercise | None":
        """Return the exercise that a ladder is played with, by its word."""
        number = origin.removeprefix(CLIMB)
        is_one = origin.startswith(CLIMB) and number.isascii() and number.isdecimal() and len(number) < 19
        return self.of(player).filter(pk=int(number)).first() if is_one else None


class Exercise(OwnWords):
    """A drill of the shelf, one of the player's own, or any other by what its rungs share.

    Its rungs differ in tempo, length of silence and notes to the beat, which each take keeps of itself. An exercise
    may be split: its parts are exercises of their own, by hand, key and section.
    """

    own_words = ("next_time", "note")

    class Hand(models.TextChoices):
        NONE = "", "as it is"
        LEFT = "left", "left hand"
        RIGHT = "right", "right hand"
        TOGETHER = "together", "hands together"

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="exercises")
    shelf_slug = models.CharField(max_length=60, blank=True, help_text="the built-in drill that it is, if one")
    own_drill = models.ForeignKey(OwnDrill, on_delete=models.SET_NULL, null=True, blank=True, related_name="exercises")
    climbs = models.BooleanField(default=False, help_text="made for a ladder: its takes are those played from it")
    key = models.CharField(max_length=KEY_LENGTH, help_text="what all its rungs share (giusto.drill.identity)")
    name = models.CharField(max_length=120, blank=True)
    whole = models.ForeignKey("self", on_delete=models.CASCADE, null=True, blank=True, related_name="parts")
    hand = models.CharField(max_length=8, choices=Hand.choices, default=Hand.NONE, blank=True)
    music_key = models.CharField("key", max_length=20, blank=True)
    section = models.CharField(max_length=60, blank=True)
    next_time = models.CharField("Next time", max_length=300, blank=True, help_text="what its player means to do")
    note = models.TextField("Notes", max_length=4000, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    objects = ExerciseQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint("player", "shelf_slug", condition=~Q(shelf_slug=""), name="one_exercise_a_slug"),
            models.UniqueConstraint(
                "player", "own_drill", condition=Q(own_drill__isnull=False), name="one_exercise_an_own_drill"
            ),
            models.UniqueConstraint(
                "player",
                "key",
                condition=Q(shelf_slug="", own_drill=None, climbs=False),
                name="one_other_exercise_a_key",
            ),
            models.UniqueConstraint(
                "whole",
                "hand",
                "music_key",
                "section",
                condition=Q(whole__isnull=False),
                name="one_part_a_hand_key_and_section",
            ),
        ]

    def __str__(self) -> str:
        return self.name or "An exercise"

    @property
    def part_name(self) -> str:
        """What makes it a part of the whole, such as ``left hand, in F, bars 5–8``."""
        key = f"in {self.music_key}" if self.music_key else ""
        hand = self.get_hand_display() if self.hand else ""
        return ", ".join(filter(None, (hand, key, self.section)))

    @property
    def origin(self) -> str:
        """What an address calls it: a slug of the shelf, an own drill's id, a ladder's own word, or nothing."""
        return self.word if self.climbs else self.shelf_slug or str(self.own_drill_id or "")

    @property
    def word(self) -> str:
        """What an address of its ladder calls it, so that what is played there is a take of it and of nothing else."""
        return f"{CLIMB}{self.pk}"


class Session(models.Model):
    """A day's practice: every take of one player that began on one local day."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="sessions")
    day = models.DateField()
    is_off = models.BooleanField(default=False, help_text="an off day, by the player's word")
    off_at = models.DateTimeField(null=True, blank=True, help_text="from when on; null for all of it")

    class Meta:
        ordering = ["-day"]
        constraints = [models.UniqueConstraint(fields=["player", "day"], name="one_session_a_day")]

    def __str__(self) -> str:
        return f"{self.day:%Y-%m-%d}"
