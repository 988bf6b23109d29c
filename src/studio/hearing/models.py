"""By what a player is heard, and the delays that were measured."""

from __future__ import annotations

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models.functions import Lower
from django.utils import timezone

from giusto.hearing.inputs import HEARING, Input
from giusto.hearing.level import HIGHEST_DB, LOWEST_DB
from giusto.simulation.instrument import SOUNDS
from studio.accounts.models import Player

BY = {
    Input.KEYS: "keys and touch",
    Input.MICROPHONE: "a microphone",
    Input.PHONE: "a phone beside me",
    Input.MIDI: "a MIDI instrument",
    Input.STAND_IN: "a simulated instrument",
    Input.STAND_IN_MIDI: "a simulated MIDI keyboard",
}
CHOICES = [(one.value, BY[one]) for one in HEARING]
STRUCK = {"skin": "a drum", "wood": "a wood block", "string": "a plucked string", "metal": "a bell"}
NAME_CHARS = 12  # of an instrument, as of any source of notes
PADS = ("again", "easier", "harder", "stop")  # what a pad, a note or a pedal may be chosen for


class Ear(models.Model):
    """By what a player is heard, and what is done with it."""

    class CountsBy(models.TextChoices):
        DRILL = "drill", "the drill’s tempo"
        STROKES = "strokes", "the tempo of the strokes"

    player = models.OneToOneField(Player, on_delete=models.CASCADE, related_name="ear")
    by = models.CharField(max_length=14, choices=CHOICES, default=Input.KEYS.value)
    microphone = models.CharField(max_length=200, blank=True, help_text="its name; any where empty")
    port = models.CharField(max_length=200, blank=True, help_text="the MIDI port's name; any where empty")
    channel = models.PositiveSmallIntegerField(
        default=0, validators=[MaxValueValidator(16)], help_text="of MIDI, 1 to 16; any where 0"
    )
    keeps_sound = models.BooleanField(default=False)
    counts_in = models.BooleanField(default=True, help_text="whether four even strokes count the next take in")
    still_on = models.DateField(null=True, blank=True, help_text="the day on which strokes begin nothing")
    counts_by = models.CharField(max_length=8, choices=CountsBy.choices, default=CountsBy.DRILL)
    phone_at = models.DateTimeField(null=True, blank=True, help_text="when a phone of the player's last listened")
    pads = models.JSONField(default=dict, blank=True, help_text="what was chosen: a note, a pedal or a key of each")
    pad_names = models.JSONField(default=dict, blank=True, db_default={}, help_text="by the number of a note")
    threshold_db = models.FloatField(
        null=True, blank=True, validators=[MinValueValidator(LOWEST_DB), MaxValueValidator(HIGHEST_DB)]
    )
    refractory_s = models.FloatField(
        null=True, blank=True, validators=[MinValueValidator(0.02), MaxValueValidator(0.2)]
    )

    sound = models.CharField(max_length=8, choices=[(one, STRUCK[one]) for one in SOUNDS], default=SOUNDS[0])
    bleed_db = models.FloatField(
        null=True, blank=True, default=-25.0, validators=[MinValueValidator(-60), MaxValueValidator(-10)]
    )
    noise_db = models.FloatField(default=-60.0, validators=[MinValueValidator(-90), MaxValueValidator(-30)])
    delay_ms = models.FloatField(default=38.0, validators=[MinValueValidator(0), MaxValueValidator(400)])

    def __str__(self) -> str:
        return f"{self.player} is heard by {self.get_by_display()}"

    @property
    def is_still(self) -> bool:
        """Whether strokes begin nothing today."""
        return self.still_on == timezone.localdate()

    @property
    def device(self) -> str:
        """Name of what hears: a delay holds for it alone."""
        if self.by == Input.STAND_IN:
            return f"simulated, {self.delay_ms:g} ms"
        return {Input.MICROPHONE: self.microphone, Input.MIDI: self.port}.get(Input(self.by), "")


def ear_of(player: Player) -> Ear:
    """Return by what a player is heard; keys until they choose."""
    try:
        return player.ear  # asked for once a request
    except Ear.DoesNotExist:
        return Ear(player=player)


class InstrumentQuerySet(models.QuerySet["Instrument"]):
    """Which instruments a question is about."""

    def of(self, player: Player) -> InstrumentQuerySet:
        """Leave only the player's own."""
        return self.filter(player=player)


class Instrument(models.Model):
    """How an instrument of the player's sounds, learned from some strokes of it."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="instruments")
    name = models.CharField(max_length=NAME_CHARS)
    shapes = models.JSONField(help_text="of each stroke, band by band (giusto.hearing.timbre)")
    softest_db = models.FloatField(
        null=True,
        blank=True,
        validators=[MinValueValidator(LOWEST_DB), MaxValueValidator(HIGHEST_DB)],
        help_text="the peak from which its strokes count; none of its own where empty",
    )
    closest_s = models.FloatField(
        null=True,
        blank=True,
        validators=[MinValueValidator(0.02), MaxValueValidator(0.2)],
        help_text="the shortest time between two of its notes",
    )
    learned_at = models.DateTimeField(default=timezone.now)

    objects = InstrumentQuerySet.as_manager()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint("player", Lower("name"), name="one_instrument_a_name")]

    def __str__(self) -> str:
        return self.name


class DelayQuerySet(models.QuerySet["Delay"]):
    """Which delays a question is about."""

    def of(self, player: Player) -> DelayQuerySet:
        """Leave only the player's own."""
        return self.filter(player=player)

    def holding(self, player: Player, *, by: str, device: str, browser: str) -> Delay | None:
        """Return the delay that holds for a device in a browser, where it was measured."""
        return self.of(player).filter(by=by, device=device, browser=browser).first()


class Delay(models.Model):
    """A delay that was measured, of one device in one browser."""

    player = models.ForeignKey(Player, on_delete=models.CASCADE, related_name="delays")
    by = models.CharField(max_length=14, choices=CHOICES)
    device = models.CharField(max_length=200, blank=True)
    browser = models.CharField(max_length=400, blank=True)
    delay_ms = models.FloatField()
    low_ms = models.FloatField()
    high_ms = models.FloatField()
    count = models.PositiveSmallIntegerField(help_text="clicks or taps behind it")
    measured_at = models.DateTimeField()

    objects = DelayQuerySet.as_manager()

    class Meta:
        ordering = ["-measured_at"]
        constraints = [
            models.UniqueConstraint("player", "by", "device", "browser", name="one_delay_a_device_and_browser")
        ]

    def __str__(self) -> str:
        return f"{self.delay_ms:.1f} ms by {self.get_by_display()}"
