"""A recording that was dropped, until it has become a take."""

from __future__ import annotations

import uuid
from contextlib import AbstractContextManager
from functools import partial

from django.db import models, transaction
from django.urls import reverse

from studio.accounts.models import Player
from studio.locks import RECORDING, alone
from studio.takes.models import Take


class UploadQuerySet(models.QuerySet["Upload"]):
    """Which recordings a question is about."""

    def of(self, player: Player) -> UploadQuerySet:
        """Leave only the player's own."""
        return self.filter(player=player)

    def unfinished(self) -> UploadQuerySet:
        """Leave only those of which something is still to come."""
        return self.filter(state__in=(Upload.State.WAITING, Upload.State.HEARING, Upload.State.ASKING))

    def under_way(self) -> UploadQuerySet:
        """Leave only those that wait or are being heard."""
        return self.filter(state__in=(Upload.State.WAITING, Upload.State.HEARING))


class Upload(models.Model):
    """A recording made elsewhere while the click of a drill played."""

    class State(models.TextChoices):
        WAITING = "waiting", "waits to be heard"
        HEARING = "hearing", "is being heard"
        ASKING = "asking", "waits for your word on its drill"
        DONE = "done", "has become a take"
        FAILED = "failed", "can’t be read"
        CANCELLED = "cancelled", "was cancelled"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    number = models.BigIntegerField(unique=True, editable=False, help_text="for the lock of whoever hears it")
    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="uploads")
    drill = models.JSONField(help_text="whose click played; {} while that is to be found out")
    origin = models.CharField(max_length=80, blank=True)
    words = models.TextField(blank=True, help_text="the sentence, for the way back")
    among = models.JSONField(default=list, blank=True, help_text="drills that it may be of, the likeliest first")
    name = models.CharField(max_length=200, help_text="of the file, as it came")
    file = models.FileField(upload_to="uploads/", blank=True)
    keeps_sound = models.BooleanField(default=False)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    share = models.FloatField(default=0.0, help_text="of the work that is done")
    tries = models.PositiveSmallIntegerField(default=0, help_text="workers that took it up")
    problem = models.CharField(max_length=400, blank=True)
    take = models.OneToOneField(Take, on_delete=models.CASCADE, null=True, blank=True, related_name="upload")
    made_at = models.DateTimeField(auto_now_add=True)

    objects = UploadQuerySet.as_manager()

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return f"{self.name}: {self.get_state_display()}"

    def get_absolute_url(self) -> str:
        """Return the page that says how far it is."""
        return reverse("recordings:upload", args=[self.pk])

    @property
    def is_under_way(self) -> bool:
        """Whether something is still to come."""
        return self.state in (self.State.WAITING, self.State.HEARING)

    @property
    def is_asking(self) -> bool:
        """Whether its player is to say which drill it is of."""
        return self.state == self.State.ASKING

    @property
    def percent(self) -> int:
        """How much of the work is done."""
        return round(100 * self.share)

    def end(self, state: State, problem: str = "") -> None:
        """End it; its file is not needed any more."""
        storage, name = self.file.storage, self.file.name
        if name:
            transaction.on_commit(partial(storage.delete, name))
        self.state, self.problem, self.file = state, problem[:400], ""
        self.save(update_fields=["state", "problem", "file", "take", "share"])

    def heard_alone(self) -> AbstractContextManager[bool]:
        """Hold the lock on hearing this recording; give whether it was free."""
        return alone(RECORDING, self.number)
