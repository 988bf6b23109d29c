"""By what a player is heard, as words of a sentence; and what a page sends to be listened to."""

from __future__ import annotations

import json
import re
from typing import Any

import numpy as np
from django import forms
from django.core.files.uploadedfile import UploadedFile

from giusto.hearing.allowed import HIGHEST_HZ, LOWEST_HZ
from giusto.hearing.sound import Samples
from studio.drills.sentence.fields import printed
from studio.hearing.models import NAME_CHARS, PADS, Ear
from studio.hearing.pads import names_of, written
from studio.numbers import numbers_of

PAD = re.compile(r"(note|pedal):([0-9]{1,3})|key:[A-Za-z0-9]{1,20}")
MOST_TAPS, MOST_PAIRS = 500, 5000
MOST_BYTES = 6_000_000  # half a minute at 96 kHz
CHANNELS = [(0, "any channel"), *((number, f"channel {number}") for number in range(1, 17))]
KEEPS = [("yes", "kept beside the reading"), ("no", "forgotten once it is heard")]
COUNTS = [("yes", "count the next take in"), ("no", "mean nothing")]
BLEED = [("-35", "softly"), ("-25", "plainly"), ("-15", "loudly"), ("", "not at all")]
NOISE = [("-75", "a still room"), ("-60", "a quiet room"), ("-42", "a noisy room")]
DELAYS = [("8", "8 ms"), ("38", "38 ms"), ("120", "120 ms"), ("240", "240 ms")]


def _is_yes(word: str) -> bool:
    return word == "yes"


class EarForm(forms.ModelForm):
    """By what a player is heard."""

    keeps_sound = forms.TypedChoiceField(label="What becomes of the sound", choices=KEEPS, coerce=_is_yes)
    counts_in = forms.TypedChoiceField(label="What four even strokes do", choices=COUNTS, coerce=_is_yes)
    channel = forms.TypedChoiceField(label="MIDI channel", coerce=int, choices=CHANNELS)
    bleed_db = forms.TypedChoiceField(
        label="The click in the simulated room",
        coerce=float,
        empty_value=None,
        required=False,
        choices=BLEED,
    )
    noise_db = forms.TypedChoiceField(label="The simulated room", coerce=float, choices=NOISE)
    delay_ms = forms.TypedChoiceField(label="The simulated delay", coerce=float, choices=DELAYS)
    called = forms.CharField(
        label="What pads are called",
        max_length=800,
        required=False,
        widget=forms.TextInput(attrs={"placeholder": "as they are", "size": 24}),
    )
    pads = forms.CharField(max_length=400, required=False, widget=forms.HiddenInput())

    class Meta:
        model = Ear
        fields = (
            "by",
            "microphone",
            "port",
            "channel",
            "keeps_sound",
            "counts_in",
            "counts_by",
            "pads",
            "sound",
            "bleed_db",
            "noise_db",
            "delay_ms",
        )
        labels = {"by": "Heard by", "counts_by": "At which tempo", "sound": "The simulated instrument"}
        widgets = {"microphone": forms.Select(), "port": forms.Select()}

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        self.initial["called"] = written(self.instance.pad_names)
        self.initial["pads"] = json.dumps(self.instance.pads)
        for name in ("keeps_sound", "counts_in"):
            self.initial[name] = "yes" if getattr(self.instance, name) else "no"
        for name in ("bleed_db", "noise_db", "delay_ms"):
            value = getattr(self.instance, name)
            self.initial[name] = "" if value is None else f"{value:g}"
        for name, whole in (("microphone", "the microphone that the browser offers"), ("port", "any MIDI port")):
            kept = getattr(self.instance, name)
            self.fields[name].widget.choices = [("", whole), *([(kept, kept)] if kept else [])]
            self.fields[name].required = False
        for name, field in self.fields.items():
            field.widget.attrs |= {"class": "word", "aria-label": field.label, "id": f"id_ear_{name}"}

    def clean_called(self) -> str:
        """Refuse what names no pad; names that an older page does not have stay."""
        if "called" in self.data:
            try:
                self.instance.pad_names = names_of(self.cleaned_data["called"])
            except ValueError as error:
                raise forms.ValidationError(f"{error}.") from None
        return written(self.instance.pad_names)

    def clean_pads(self) -> dict[str, str]:
        """Refuse what is neither a note, a pedal nor a key."""
        try:
            told = json.loads(self.cleaned_data["pads"] or "{}")
        except (ValueError, RecursionError):
            raise forms.ValidationError("That is not valid JSON.") from None
        if not isinstance(told, dict) or not set(told) <= set(PADS):
            raise forms.ValidationError(f"Allowed are {', '.join(PADS)}.")
        wrong = [name for name, pad in told.items() if pad and not (isinstance(pad, str) and PAD.fullmatch(pad))]
        if wrong:
            raise forms.ValidationError(f"What is chosen for {wrong[0]} is no note, pedal or key.")
        chosen = [pad for pad in told.values() if pad]
        if len(chosen) != len(set(chosen)):
            raise forms.ValidationError("One pad can’t stand for two things.")
        return {name: pad for name, pad in told.items() if pad}


class SoundForm(forms.Form):
    """Some seconds of sound, 16 bits a sample, and where they lie on the audio clock."""

    sound = forms.FileField(required=True)
    rate = forms.IntegerField(min_value=LOWEST_HZ, max_value=HIGHEST_HZ)
    frame = forms.IntegerField(min_value=0, max_value=2**53)

    def clean_sound(self) -> bytes:
        """Refuse too much, and half a sample."""
        file: UploadedFile = self.cleaned_data["sound"]
        if (file.size or 0) > MOST_BYTES or (file.size or 0) % 2:
            raise forms.ValidationError(f"Allowed are whole samples of 16 bits, {MOST_BYTES:,} bytes at most.")
        return bytes(file.read())

    @property
    def samples(self) -> Samples:
        """The sound."""
        found = np.frombuffer(self.cleaned_data["sound"], dtype="<i2").astype(np.float64) / 32768
        return Samples(found, self.cleaned_data["rate"])


class LearnForm(SoundForm):
    """Some seconds of an instrument, and what it is called."""

    name = forms.CharField(
        max_length=NAME_CHARS, validators=[printed], error_messages={"required": "Give it a name first."}
    )


class TapsForm(forms.Form):
    """Taps, the pairs of both clocks, and when each click sounded: lists of numbers."""

    taps = forms.CharField(max_length=20_000)
    pairs = forms.CharField(max_length=200_000)
    clicks = forms.CharField(max_length=20_000)
    by = forms.CharField(max_length=14)
    device = forms.CharField(max_length=200, required=False)

    def clean(self) -> dict[str, Any]:
        """Turn the lists into arrays."""
        cleaned = super().clean() or {}
        for name, across in (("taps", 0), ("pairs", 2), ("clicks", 0)):
            if name in cleaned:
                cleaned[name] = numbers_of(cleaned[name], most=MOST_PAIRS if across else MOST_TAPS, across=across)
                if cleaned[name] is None:
                    self.add_error(name, "A list of numbers, please.")
        return cleaned
