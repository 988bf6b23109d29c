"""What a pupil agreed to show, what a teacher says of it, what is to be played next, what is shown by a link."""

from __future__ import annotations

import secrets
from datetime import date, timedelta
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.urls import reverse
from django.utils import timezone

from studio.accounts.looking import Looking
from studio.accounts.models import Player
from studio.ladders.models import Ladder
from studio.pieces.models import Piece
from studio.takes.models import Take

LONGEST_CONSENT = timedelta(days=365)
TEXT_LENGTH = 1000


class Scope(models.TextChoices):
    """What a pupil may show, each by its own tick."""

    TAKES = "takes", "takes, readings, ladders, plan and progress"
    WORDS = "words", "notes to oneself"
    SOUND = "sound", "the sound of takes, where it is kept"


class ConsentQuerySet(models.QuerySet["Consent"]):
    """Which consents a question is about."""

    def now(self) -> ConsentQuerySet:
        """Leave only those that hold: not withdrawn, not over, between two accounts that are open."""
        teaches = [Player.Role.TEACHER, Player.Role.OWNER]
        people = models.Q(player__is_active=True, teacher__is_active=True, teacher__role__in=teaches)
        return self.filter(people, withdrawn_at=None, until__gte=timezone.localdate())

    def to(self, teacher: Player) -> ConsentQuerySet:
        """Leave only those that let a teacher look."""
        return self.filter(teacher=teacher)

    def of(self, player: Player) -> ConsentQuerySet:
        """Leave only those that a pupil gave."""
        return self.filter(player=player)


class Consent(models.Model):
    """What a pupil lets a teacher see, from when, until when; given by the pupil, and ended at once."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="consents", help_text="the pupil")
    teacher = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="consents_to")
    scopes = ArrayField(models.CharField(max_length=5, choices=Scope.choices))
    since = models.DateField(null=True, blank=True, help_text="from which day takes are shown; all where there is none")
    begun_at = models.DateTimeField(default=timezone.now)
    until = models.DateField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    objects = ConsentQuerySet.as_manager()

    class Meta:
        ordering = ["-begun_at"]
        indexes = [models.Index(fields=["teacher", "player"], name="consent_by_teacher")]

    def __str__(self) -> str:
        return f"{self.player_id} to {self.teacher_id} until {self.until}"

    @property
    def words(self) -> str:
        """What is shown, in words."""
        return "; ".join(Scope(one).label for one in Scope.values if one in self.scopes)

    @property
    def look(self) -> Looking:
        """The look that it allows."""
        shows_words, shows_sound = Scope.WORDS in self.scopes, Scope.SOUND in self.scopes
        return Looking(self.player, self.teacher, shows_words, shows_sound, self.since)


class Remark(models.Model):
    """What a teacher says of a take, a silence, a ladder's rung or a piece's bar."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="remarks", help_text="the pupil")
    by = models.ForeignKey(Player, on_delete=models.SET_NULL, null=True, related_name="remarks_made")
    by_name = models.CharField(max_length=150)
    take = models.ForeignKey(Take, on_delete=models.CASCADE, null=True, blank=True, related_name="remarks")
    silence = models.PositiveSmallIntegerField(null=True, blank=True, help_text="its number in the take, from 1")
    ladder = models.ForeignKey(Ladder, on_delete=models.CASCADE, null=True, blank=True, related_name="remarks")
    rung = models.PositiveSmallIntegerField(null=True, blank=True, help_text="from 1")
    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, null=True, blank=True, related_name="remarks")
    bar = models.PositiveSmallIntegerField(null=True, blank=True)
    text = models.TextField(max_length=TEXT_LENGTH)
    at = models.DateTimeField(default=timezone.now)
    changed_at = models.DateTimeField(null=True, blank=True)
    put_away_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at"]
        constraints = [
            models.CheckConstraint(
                condition=(
                    models.Q(take__isnull=False, ladder=None, piece=None)
                    | models.Q(take=None, ladder__isnull=False, piece=None)
                    | models.Q(take=None, ladder=None, piece__isnull=False)
                ),
                name="remark_on_one_thing",
            )
        ]

    def __str__(self) -> str:
        return f"{self.by_name} on {self.about}"

    @property
    def about(self) -> str:
        """What it is about, in words."""
        if self.take:
            return f"{self.take.title}, silence {self.silence}" if self.silence else self.take.title
        if self.ladder:
            return f"{self.ladder.name}, rung {self.rung}" if self.rung else self.ladder.name
        name = self.piece.name if self.piece else ""
        return f"{name}, bar {self.bar}" if self.bar else name

    @property
    def view(self) -> str:
        """The page where it belongs, by its view."""
        if self.take_id:
            return "readings:silence" if self.silence else "readings:reading"
        return "ladders:climb" if self.ladder_id else "pieces:piece"

    @property
    def place(self) -> list[Any]:
        """What the page is of."""
        thing = self.take_id or self.ladder_id or self.piece_id
        return [thing, self.silence] if self.take_id and self.silence else [thing]

    @property
    def url(self) -> str:
        """The address of that page."""
        return reverse(self.view, args=self.place)


class Assignment(models.Model):
    """What a teacher asks a pupil to play: a copy of the teacher's, with a goal and a date; the pupil takes it on."""

    class Kind(models.TextChoices):
        DRILL = "drill", "a drill"
        LADDER = "ladder", "a ladder"
        BLOCK = "block", "a block of the routine"
        PIECE = "piece", "a piece"

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="assignments", help_text="the pupil")
    by = models.ForeignKey(Player, on_delete=models.SET_NULL, null=True, related_name="assignments_made")
    by_name = models.CharField(max_length=150)
    kind = models.CharField(max_length=6, choices=Kind.choices)
    name = models.CharField(max_length=120)
    spec = models.JSONField(help_text="drill/1 to drill/3, ladder/1, a block of routine/1, or a piece's archive")
    goal = models.CharField(max_length=300, blank=True)
    due = models.DateField(null=True, blank=True)
    at = models.DateTimeField(default=timezone.now)
    accepted_at = models.DateTimeField(null=True, blank=True)
    put_away_at = models.DateTimeField(null=True, blank=True)
    taken_back_at = models.DateTimeField(null=True, blank=True)
    drill_key = models.CharField(max_length=64, blank=True, help_text="of a drill: by which its takes are known")
    ladder = models.ForeignKey(Ladder, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    piece = models.ForeignKey(Piece, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.name} for {self.player_id}"

    @property
    def is_open(self) -> bool:
        """Whether the pupil has still to say yes or no."""
        return self.accepted_at is None and self.put_away_at is None and self.taken_back_at is None

    @property
    def is_on(self) -> bool:
        """Whether the pupil took it on, and nobody ended it."""
        return self.accepted_at is not None and self.put_away_at is None and self.taken_back_at is None


class Shown(models.Model):
    """A take's reading shown to whoever has the link, without an account, until it ends by itself."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="shown")
    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="shown")
    token = models.CharField(max_length=43, unique=True)
    ends_at = models.DateTimeField()

    def __str__(self) -> str:
        return f"{self.take_id} until {self.ends_at:%d %B}"

    @staticmethod
    def new_token() -> str:
        """Return letters that nobody guesses."""
        return secrets.token_urlsafe(32)


def consent_of(player: Player, teacher: Player) -> Consent | None:
    """Return the consent by which a teacher may look at a player's now."""
    return Consent.objects.now().of(player).to(teacher).select_related("player", "teacher").first()


def latest_until() -> date:
    """Return the last day that a consent of today may reach."""
    return timezone.localdate() + LONGEST_CONSENT
