"""A take, its raw material in batches, its reading, and a row for each silence."""

import uuid
from collections.abc import Iterable
from datetime import timedelta

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.urls import reverse
from django.utils import timezone
from django.utils.functional import cached_property

from giusto.drill.identity import KEY_LENGTH
from giusto.errors import GiustoError
from giusto.hearing.inputs import TAKEN, Input
from giusto.reading import Reading as CoreReading
from giusto.reading import Thread, parse
from studio.accounts.looking import OwnWords, looking
from studio.accounts.models import Player
from studio.columns import TypedJSONField
from studio.exercises.models import Exercise, Session
from studio.takes.heard import Device, Hearing
from studio.takes.thread import thread_of

INPUTS = {
    Input.KEYS: "keys and touch",
    Input.SIMULATED: "simulated player",
    Input.RECORDING: "a recording",
    Input.MICROPHONE: "the microphone",
    Input.PHONE: "a phone beside",
    Input.MIDI: "MIDI",
}
LEFT_AFTER = timedelta(minutes=15)  # ours: no silence that a drill can have lasts longer
NEAR = 0.04  # ours: of the tempo; about a notch of the traditional scale


class TakeQuerySet(models.QuerySet["Take"]):
    """Which takes a question is about."""

    def visible_to(self, player: Player) -> "TakeQuerySet":
        """Leave only what the player may see, take by take: their own, not deleted; of another's, what is shown."""
        takes, look = self.filter(player=player, deleted_at=None), looking()
        return takes.filter(started_at__date__gte=look.since) if look and look.since else takes

    def of(self, player: Player) -> "TakeQuerySet":
        """Leave only the player's own, deleted ones included (for undo)."""
        return self.filter(player=player)

    def deleted(self, player: Player) -> "TakeQuerySet":
        """Leave only the player's own that were deleted, with something played."""
        played = Batch.objects.filter(take=models.OuterRef("pk")).exclude(notes=[])
        return self.filter(models.Exists(played), player=player).exclude(deleted_at=None)

    def telling_of(self, player: Player) -> "TakeQuerySet":
        """Leave only what tells of a player: their own takes that are over; of simulated ones the demo's alone."""
        takes = self.filter(player=player, deleted_at=None).ended()
        return takes if player.is_demo else takes.exclude(input=Input.SIMULATED)

    def left(self) -> "TakeQuerySet":
        """Leave only takes that nobody ended, and to which nothing has come for a while."""
        quiet = Batch.objects.filter(take=models.OuterRef("pk"), received_at__gte=timezone.now() - LEFT_AFTER)
        begun = models.Q(started_at__lt=timezone.now() - LEFT_AFTER)
        return self.filter(begun, ended_how="").exclude(models.Exists(quiet))

    def ended(self) -> "TakeQuerySet":
        """Leave only takes that are over."""
        return self.exclude(ended_how="")

    def read(self) -> "TakeQuerySet":
        """Leave only takes of which a reading says something."""
        return self.filter(reading__heard_ms__isnull=False)

    def same_hand(self, take: "Take") -> "TakeQuerySet":
        """Leave only the same player's takes by the same hand, not deleted, other than this one."""
        return self.filter(player=take.player_id, input=take.input, deleted_at=None).exclude(pk=take.pk)

    def like(self, take: "Take") -> "TakeQuerySet":
        """Leave only what may be compared with a take: the same hand, near its tempo, other than it."""
        return self.same_hand(take).near(take.tempo_bpm).ended()

    def near(self, bpm: float) -> "TakeQuerySet":
        """Leave only takes near a tempo."""
        return self.filter(tempo_bpm__range=(bpm * (1 - NEAR), bpm * (1 + NEAR)))

    def these(self, takes: Iterable[uuid.UUID]) -> "TakeQuerySet":
        """Leave only some that are known already."""
        return self.filter(pk__in=list(takes))

    def before(self, take: "Take") -> "TakeQuerySet":
        """Leave only what was played earlier, newest first."""
        return self.filter(started_at__lt=take.started_at).order_by("-started_at")

    def for_log(self) -> "TakeQuerySet":
        """Newest first, with what a line of the log shows and no more, in a bounded number of queries."""
        takes = self.order_by("-started_at").select_related("reading", "exercise").prefetch_related("silences")
        long = ("spec", "brief", "sizes", "thread", "onsets_s", "strengths", "sources")
        return takes.defer("drill", "device", "hearing", *(f"reading__{name}" for name in long))


class Take(OwnWords):
    """One performance of a drill, kept as it was played."""

    own_words = ("note",)

    class Ended(models.TextChoices):
        NOT_YET = "", "still playing"
        COMPLETE = "complete", "to the end"
        STOPPED = "stopped", "stopped by the player"
        BROKEN = "broken", "broken off"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="takes")

    exercise = models.ForeignKey(Exercise, on_delete=models.SET_NULL, null=True, related_name="takes")
    session = models.ForeignKey(Session, on_delete=models.SET_NULL, null=True, related_name="takes")

    drill = models.JSONField(help_text="drill/1 to drill/3, as it was played")
    drill_key = models.CharField(max_length=KEY_LENGTH, blank=True, db_index=True, help_text="without name and tempo")
    rung_key = models.CharField(max_length=KEY_LENGTH, blank=True, help_text="with tempo, without name and length")
    drill_name = models.CharField(max_length=120, blank=True)
    family = models.CharField(max_length=10, blank=True, help_text="of its drill, on the shelf")
    tempo_bpm = models.FloatField()
    beats = models.PositiveSmallIntegerField(help_text="beats in a cycle")
    cycles = models.PositiveSmallIntegerField()
    silent_cycles = models.PositiveSmallIntegerField(default=0, help_text="the longest silence that the drill makes")
    slots = models.PositiveSmallIntegerField(default=1, help_text="notes to the beat")

    input = models.CharField(max_length=12, choices=[(one.value, INPUTS[one]) for one in TAKEN])
    simulated = models.JSONField(null=True, blank=True, help_text="the simulated player, and the seed")
    device = TypedJSONField(Device, default=Device, help_text="what the browser said of itself")
    hearing = TypedJSONField(Hearing, default=Hearing, blank=True, help_text="by what, and what its times rest on")
    zero_audio_s = models.FloatField(help_text="audio time of the drill's time zero")
    started_at = models.DateTimeField(default=timezone.now)
    ended_how = models.CharField(max_length=8, choices=Ended.choices, default=Ended.NOT_YET, blank=True)
    batch_count = models.PositiveIntegerField(null=True, blank=True)
    sections = ArrayField(
        models.PositiveSmallIntegerField(), default=list, blank=True, help_text="cycles of each section that was marked"
    )
    said_clean = models.BooleanField(null=True, blank=True, help_text="the player's word, where there is one")
    note = models.TextField(blank=True, max_length=2000)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = TakeQuerySet.as_manager()

    class Meta:
        indexes = [models.Index(fields=["player", "-started_at"], name="take_by_player")]

    def __str__(self) -> str:
        return f"{self.drill_name} at {self.tempo_bpm:g}, {self.started_at:%Y-%m-%d %H:%M}"

    def get_absolute_url(self) -> str:
        """Return the address of the take's reading."""
        return reverse("readings:reading", args=[self.pk])

    @property
    def title(self) -> str:
        """What it is a take of, as one speaks of it: its exercise, or its drill, with the key, hand or bars."""
        exercise = self.exercise
        if exercise and exercise.climbs:
            return exercise.name
        name = self.drill_name or "A drill"
        return f"{name}, {exercise.part_name}" if exercise and exercise.part_name else name

    @property
    def sound_rate_hz(self) -> int:
        """Samples a second of its sound: of the device that heard it."""
        phone = self.hearing.phone
        return phone.rate_hz if phone else int(self.device.sample_rate_hz)

    @property
    def sound_zero_s(self) -> float:
        """The drill's time zero on the clock of its sound."""
        phone = self.hearing.phone
        return phone.zero_s if phone else self.zero_audio_s

    @property
    def has_notes(self) -> bool:
        """Whether anything was played or heard, or may still come, as a phone's sound does; one query, or two."""
        if self.input == Input.PHONE:
            return True
        return self.batches.exclude(notes=[]).exists() or self.pieces.exists()


class Batch(models.Model):
    """A numbered handful of a take's notes and clock pairs, as they came from the browser."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="+")
    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="batches")
    number = models.PositiveIntegerField()
    notes = models.JSONField(default=list, help_text="records: at_ms (page time), source, perhaps strength")
    pairs = ArrayField(ArrayField(models.FloatField(), size=2), help_text="audio s, page ms")
    received_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["take", "number"], name="one_batch_a_number")]

    def __str__(self) -> str:
        return f"batch {self.number} of {self.take_id}"


class SoundPiece(models.Model):
    """A piece of a take's sound as it came: kept until the take is over and heard."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="pieces")
    frame = models.BigIntegerField(help_text="of its first sample, on the audio clock")
    samples = models.BinaryField(default=b"", help_text="16 bits each, little-endian, one channel; or in the file")
    is_flac = models.BooleanField(default=False, db_default=False, help_text="whether they are packed as a FLAC file")
    file = models.FileField(upload_to="pieces/", blank=True, help_text="the same, in the storage (SOUND_IN_STORAGE)")

    class Meta:
        ordering = ["frame"]
        constraints = [models.UniqueConstraint(fields=["take", "frame"], name="one_piece_a_frame")]

    def __str__(self) -> str:
        return f"sound of {self.take_id} from frame {self.frame}"

    def content(self) -> bytes:
        """Return the samples, packed or not, from where they are."""
        if not self.file:
            return bytes(self.samples)
        with self.file.open("rb") as file:
            return bytes(file.read())


class KeptSound(models.Model):
    """The sound of a take, where the player asked for it to be kept; it goes with the take."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="+")
    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="sound")
    file = models.FileField(upload_to="sounds/%Y/%m/")
    bytes = models.PositiveBigIntegerField()
    zero_s = models.FloatField(help_text="the recording's time of the drill's time zero")
    rate = models.FloatField(default=1.0, help_text="recorder seconds in a second of the drill")

    def __str__(self) -> str:
        return f"sound of {self.take_id}"


class Reading(models.Model):
    """What the core said of a take, and which core."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="+")
    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="reading")
    core_version = models.CharField(max_length=20)
    onsets_s = ArrayField(models.FloatField(), null=True, blank=True, help_text="drill time")
    strengths = ArrayField(models.FloatField(null=True), null=True, blank=True, help_text="of each onset, 0 to 1")
    sources = ArrayField(models.CharField(max_length=12), null=True, blank=True, help_text="what made each onset")

    spec = models.JSONField(help_text="reading/1; {} where the take can't be read")
    brief = models.JSONField(null=True, help_text="the reading without notes and silences: for what is told over takes")
    sizes = models.JSONField(null=True, help_text="what the take showed of the player's noise, for the next takes")
    verdict = models.CharField(max_length=16, blank=True, help_text="code of advice/2")
    is_clean = models.BooleanField(null=True, help_text="by its reading; null where that can't say")
    margins = models.JSONField(null=True, help_text="what the take shows of what a ladder limits")
    played_s = models.FloatField(null=True, help_text="from the first note to the last")
    alone_bpm = models.FloatField(null=True, help_text="the tempo kept alone")
    heard_ms = models.FloatField(null=True, help_text="the player's place")
    heard_sd_ms = models.FloatField(null=True)
    interval_sd_ms = models.FloatField(null=True)
    clock_sd_ms = models.FloatField(null=True)
    motor_sd_ms = models.FloatField(null=True)
    alpha = models.FloatField(null=True)
    swing = models.FloatField(null=True)
    tempo_percent = models.FloatField(null=True, help_text="the bias that the take's silences share")
    thread = models.JSONField(null=True, help_text="the clock's way through the take, for drawing")
    sketch = ArrayField(models.FloatField(), null=True, help_text="the thread in a few points, ms, for small pictures")
    refusal = models.CharField(max_length=300, blank=True, help_text="why the take can't be read")
    refusal_code = models.CharField(max_length=20, blank=True)
    read_at = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"reading of {self.take_id}"

    @cached_property
    def found(self) -> CoreReading | None:
        """The reading as the core's own type; None for a refusal. The column's JSON is for nobody else."""
        try:
            return None if self.refusal_code or not self.spec else parse(self.spec)
        except GiustoError:  # kept by some version that no other can read: what it drew is all there is
            return None

    @cached_property
    def hanging(self) -> Thread | None:
        """The thread as the core's own type."""
        return thread_of(self.thread) if self.thread else None


class Silence(models.Model):
    """One silence of a take; null where it can't be read."""

    class Outcome(models.TextChoices):
        HELD = "held"
        EARLY = "early"
        LATE = "late"
        EDGE = "edge", "on the edge"
        UNREADABLE = "unreadable", "can’t be told"

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="+")
    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="silences")
    number = models.PositiveIntegerField()
    start_s = models.FloatField()
    end_s = models.FloatField()
    beats = models.FloatField()
    notes = models.PositiveIntegerField()
    return_ms = models.FloatField(null=True)
    return_low_ms = models.FloatField(null=True)
    return_high_ms = models.FloatField(null=True)
    drift_ms = models.FloatField(null=True)
    drift_low_ms = models.FloatField(null=True)
    drift_high_ms = models.FloatField(null=True)
    tempo_bpm = models.FloatField(null=True)
    lean_percent = models.FloatField(null=True, help_text="what the clock was set to")
    lean_low_percent = models.FloatField(null=True)
    lean_high_percent = models.FloatField(null=True)
    outcome = models.CharField(max_length=10, choices=Outcome.choices)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["take", "number"], name="one_silence_a_number")]

    def __str__(self) -> str:
        return f"silence {self.number} of {self.take_id}: {self.outcome}"
