"""A score that was brought in, until it has become what its page makes of it."""

from __future__ import annotations

import uuid

from django.db import models
from django.urls import reverse

from studio.accounts.models import Player


class ScoreFileQuerySet(models.QuerySet["ScoreFile"]):
    """Which scores a question is about."""

    def of(self, player: Player) -> ScoreFileQuerySet:
        """Leave only the player's own."""
        return self.filter(player=player)

    def under_way(self) -> ScoreFileQuerySet:
        """Leave only those that wait to be read."""
        return self.filter(leads_to="", problem="")


class ScoreFile(models.Model):
    """A file of a score and what is wanted of it. The worker reads it, so that no page grows by what is in it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="score_files")
    name = models.CharField(max_length=120, help_text="of the file, as it came")
    content = models.BinaryField(help_text="empty once it was read")
    words = models.JSONField(default=dict, help_text="what was asked of it")
    maker = models.CharField(max_length=120, help_text="dotted path of who makes something of it")
    back = models.CharField(max_length=200, help_text="where another file can be chosen")
    tries = models.PositiveSmallIntegerField(default=0, help_text="workers that took it up")
    leads_to = models.TextField(blank=True, help_text="address of what was made")
    told = models.CharField(max_length=200, blank=True, help_text="what its player should know of it")
    problem = models.CharField(max_length=400, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    objects = ScoreFileQuerySet.as_manager()

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Return the page that says how far it is."""
        return reverse("scores:score", args=[self.pk])

    @property
    def is_under_way(self) -> bool:
        """Whether it waits to be read."""
        return not (self.leads_to or self.problem)
