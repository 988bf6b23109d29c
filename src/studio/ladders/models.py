"""A player's ladders. Where they stand is never stored: it is replayed from the takes of their exercise."""

import json
import uuid
from functools import lru_cache
from typing import Any

from django.db import models
from django.urls import reverse

from giusto.practice.clean import LIMITS, Limits
from giusto.practice.ladder import Ladder as CoreLadder
from giusto.practice.ladder import parse_ladder
from studio.accounts.models import Player
from studio.exercises.models import Exercise

MOST_REMEMBERED = 256  # ladders whose rungs are kept laid out


class LadderQuerySet(models.QuerySet["Ladder"]):
    """Which ladders a question is about."""

    def of(self, player: Player) -> "LadderQuerySet":
        """Leave only the player's own, deleted ones included (for undo)."""
        return self.filter(player=player)

    def visible_to(self, player: Player) -> "LadderQuerySet":
        """Leave only the player's own that are not deleted."""
        return self.of(player).filter(deleted_at=None)

    def taken_down(self, player: Player) -> "LadderQuerySet":
        """Leave only the player's own that were deleted, the last one first."""
        return self.of(player).exclude(deleted_at=None).order_by("-deleted_at")


class Ladder(models.Model):
    """A ladder that a player climbs with one exercise."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="ladders")
    exercise = models.ForeignKey(Exercise, on_delete=models.CASCADE, related_name="ladders")
    name = models.CharField(max_length=120)
    slug = models.CharField(max_length=60, blank=True, help_text="the ladder of the shelf that it was, if one")
    spec = models.JSONField(help_text="ladder/1")
    spread_percent = models.FloatField(default=LIMITS.spread_percent, help_text="limit of a take without silences")
    missed_percent = models.FloatField(default=LIMITS.missed_percent, help_text="limit of a take without silences")
    fused_cycles = models.PositiveSmallIntegerField(
        null=True, blank=True, help_text="cycles running with note and click as one"
    )
    place_ms = models.FloatField(null=True, blank=True, help_text="how far the player’s place may lie from the click")
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = LadderQuerySet.as_manager()

    class Meta:
        ordering = ["created_at"]
        constraints = [
            models.UniqueConstraint("exercise", condition=models.Q(deleted_at=None), name="one_ladder_an_exercise")
        ]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Return the address of its page."""
        return reverse("ladders:climb", args=[self.pk])

    @property
    def core(self) -> CoreLadder:
        """The ladder as the core's own type, made anew where its spec was changed."""
        kept: tuple[Any, CoreLadder] | None = self.__dict__.get("_core")
        if kept is None or kept[0] is not self.spec:
            kept = self.spec, _laid_out(json.dumps(self.spec, sort_keys=True))
            self.__dict__["_core"] = kept
        return kept[1]

    @property
    def limits(self) -> Limits:
        """What a take of it must stay within."""
        return Limits(**limits_of(self))


LIMIT_COLUMNS = ("spread_percent", "missed_percent", "fused_cycles", "place_ms")


def limits_of(ladder: Ladder) -> dict[str, Any]:
    """Return what a ladder's takes must stay within, as its columns have it."""
    return {name: getattr(ladder, name) for name in LIMIT_COLUMNS}


class OtherAttempt(models.Model):
    """An attempt that was made elsewhere, and came in by a file."""

    ladder = models.ForeignKey(Ladder, on_delete=models.CASCADE, related_name="others")
    at = models.DateTimeField()
    offset_minutes = models.SmallIntegerField(help_text="of the clock it was written by; its date is the day")
    rung = models.PositiveIntegerField()
    is_clean = models.BooleanField(null=True, help_text="null where it is open")
    chance = models.FloatField(null=True, help_text="that it was clean; null where nobody measured it")
    minutes = models.FloatField()
    is_off = models.BooleanField(default=False)

    class Meta:
        ordering = ["at"]
        constraints = [models.UniqueConstraint(fields=["ladder", "at"], name="one_other_attempt_a_moment")]

    def __str__(self) -> str:
        return f"rung {self.rung} at {self.at:%Y-%m-%d %H:%M}"


@lru_cache(maxsize=MOST_REMEMBERED)
def _laid_out(text: str) -> CoreLadder:
    return parse_ladder(text)
