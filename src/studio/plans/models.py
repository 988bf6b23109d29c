"""A player's routine, the weeks that they chose, and the days on which they practise."""

import secrets

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from giusto.plan.routine import Routine as CoreRoutine
from giusto.plan.routine import routine_of
from studio.accounts.models import Player

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
    over = models.JSONField(default=list, help_text="slots that are done or skipped, by their word")
    swapped = models.JSONField(default=dict, help_text="what is played in place of a slot's exercise")

    class Meta:
        ordering = ["-day"]
        constraints = [models.UniqueConstraint(fields=["player", "day"], name="one_day_a_date")]

    def __str__(self) -> str:
        return f"{self.day:%Y-%m-%d} of {self.player}"
