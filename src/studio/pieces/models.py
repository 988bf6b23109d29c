"""A piece that a player works on, its stretches of bars, and the places that they marked by hand."""

import uuid

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.urls import reverse

from giusto.drill.file import HIGHEST_BPM, LOWEST_BPM
from giusto.plan.piece import MOST_BARS
from studio.accounts.looking import OwnWords
from studio.accounts.models import Player
from studio.exercises.models import Exercise

TEMPO = [MinValueValidator(LOWEST_BPM), MaxValueValidator(HIGHEST_BPM)]
BAR = [MinValueValidator(0), MaxValueValidator(MOST_BARS)]


class PieceQuerySet(models.QuerySet["Piece"]):
    """Which pieces a question is about."""

    def of(self, player: Player) -> "PieceQuerySet":
        """Leave only the player's own, deleted ones included (for undo)."""
        return self.filter(player=player)

    def visible_to(self, player: Player) -> "PieceQuerySet":
        """Leave only the player's own that are not deleted, those that are looked at before they are kept included."""
        return self.of(player).filter(deleted_at=None)

    def kept(self) -> "PieceQuerySet":
        """Leave only those that were kept."""
        return self.filter(is_draft=False)


class Piece(OwnWords):
    """A piece: its goal, how it is worked on, and its notes where it came from a score."""

    own_words = ("note",)

    class School(models.TextChoices):
        AFTER = "after", "no click while learning"
        CHECKS = "checks", "spot checks only"
        THROUGHOUT = "throughout", "the click throughout"

    class Click(models.TextChoices):
        BEATS = "beats", "on every beat"
        BARS = "bars", "on each bar line"
        ALTERNATE = "alternate", "once through with it, once alone"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="pieces")
    name = models.CharField(max_length=100)
    goal_bpm = models.FloatField("Goal", validators=TEMPO)
    found_bpm = models.FloatField("Found", null=True, blank=True, validators=TEMPO, help_text="at which it goes now")
    school = models.CharField(max_length=10, choices=School.choices, default=School.AFTER)
    click = models.CharField(max_length=10, choices=Click.choices, default=Click.BEATS)
    first_bar = models.PositiveSmallIntegerField(default=1, validators=BAR)
    last_bar = models.PositiveSmallIntegerField(validators=BAR)
    begins = models.JSONField(help_text="the first bar of each chunk")
    by_hands = models.BooleanField(default=False, help_text="each stretch hands apart, then together")
    music = models.JSONField(null=True, help_text="the bars of each hand, from the score; null without one")
    beats = models.PositiveSmallIntegerField(default=4, help_text="in a bar, where there is no score")
    grid = models.PositiveSmallIntegerField(default=2, help_text="notes to the beat, where there is no score")
    score = models.BinaryField(null=True, help_text="the file as it came")
    score_name = models.CharField(max_length=120, blank=True)
    note = models.TextField(blank=True, max_length=4000)
    is_draft = models.BooleanField(default=False, help_text="looked at, and not kept yet")
    created_at = models.DateTimeField(auto_now_add=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = PieceQuerySet.as_manager()

    class Meta:
        ordering = ["created_at"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Return the address of its page."""
        return reverse("pieces:piece", args=[self.pk])

    @property
    def has_hands(self) -> bool:
        """Whether its score has a staff for each hand."""
        return self.music is not None and {"upper", "lower"} <= set(self.music["hands"])


class Stretch(models.Model):
    """Bars of a piece that are practised as one; what is played of them is kept by its exercise."""

    class Kind(models.TextChoices):
        CHUNK = "chunk"
        JOIN = "join"
        LARGER = "larger", "larger stretch"
        WHOLE = "whole"
        SPOT = "spot", "spot"

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="stretches")
    kind = models.CharField(max_length=6, choices=Kind.choices)
    first_bar = models.PositiveSmallIntegerField()
    last_bar = models.PositiveSmallIntegerField()
    learned_at = models.DateTimeField(null=True, blank=True, help_text="by its player's word")
    exercise = models.OneToOneField(Exercise, on_delete=models.SET_NULL, null=True, blank=True, related_name="stretch")
    engraved = models.JSONField(
        null=True, help_text="its notation, and where its notes are; {} where none can be drawn"
    )

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["piece", "first_bar", "last_bar", "kind"], name="one_stretch_a_kind")
        ]

    def __str__(self) -> str:
        return f"{self.bars_name} of {self.piece}"

    def get_absolute_url(self) -> str:
        """Return the address of its page."""
        return reverse("pieces:stretch", args=[self.piece_id, self.pk])

    @property
    def bars_name(self) -> str:
        """Its bars in words: ``bar 4``, ``bars 5–8``, ``the join of bars 4 and 5``."""
        if self.kind == self.Kind.JOIN:
            return f"the join of bars {self.first_bar} and {self.last_bar}"
        if self.kind == self.Kind.WHOLE:
            return "all of it"
        return f"bar {self.first_bar}" if self.first_bar == self.last_bar else f"bars {self.first_bar}–{self.last_bar}"


class Mark(OwnWords):
    """A place that a player marked by hand: where they always rush, drag or stumble."""

    own_words = ("note",)

    class Sort(models.TextChoices):
        RUSH = "rush", "I rush"
        DRAG = "drag", "I drag"
        STUMBLE = "stumble", "I stumble"

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="marks")
    bar = models.PositiveSmallIntegerField(validators=BAR)
    beat = models.PositiveSmallIntegerField(default=1, validators=[MinValueValidator(1), MaxValueValidator(32)])
    sort = models.CharField(max_length=8, choices=Sort.choices, default=Sort.RUSH)
    note = models.CharField(max_length=200, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["bar", "beat"]
        constraints = [models.UniqueConstraint(fields=["piece", "bar", "beat"], name="one_mark_a_place")]

    def __str__(self) -> str:
        return f"{self.sort} at bar {self.bar}, beat {self.beat}"
