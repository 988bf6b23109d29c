"""What a player says when keeping a drill, and how the click shall reach them."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from django import forms

from giusto.click.said import LEAD_S
from studio.drills.delivery import gains
from studio.drills.models import Delivery
from studio.drills.sentence.fields import printed
from studio.drills.shelf import FAMILIES
from studio.drills.voices import choices


class KeepForm(forms.Form):
    """What a player says when keeping a drill."""

    name = forms.CharField(
        label="Name", max_length=120, validators=[printed], widget=forms.TextInput(attrs={"class": "field"})
    )
    family = forms.ChoiceField(
        label="Family",
        choices=[(key, name) for key, (name, _) in FAMILIES.items()],
        widget=forms.Select(attrs={"class": "field"}),
    )
    words = forms.CharField(max_length=40_000, widget=forms.HiddenInput)


def _yes_no(label: str, yes: str) -> forms.TypedChoiceField:
    """Return a choice between a word and its opposite."""
    choices = [("yes", yes), ("no", f"not {yes}")]
    return forms.TypedChoiceField(label=label, choices=choices, coerce=lambda word: word == "yes")


@dataclass(frozen=True, slots=True)
class LoudnessBar:
    """One of the bars that show how loud the click is, in a box 22 px high."""

    x: int
    y: int
    height: int
    is_on: bool


WAYS = {"heard": "heard", "felt": "only felt", "seen": "only seen"}
LEVELS = list(Delivery.Level)


class DeliveryForm(forms.ModelForm):
    """How the click reaches a player, as words of a sentence; a step louder or softer, and a way alone, where said."""

    way = forms.ChoiceField(label="How the click reaches you", choices=list(WAYS.items()), required=False)
    step = forms.ChoiceField(choices=[("softer", "softer"), ("louder", "louder")], required=False)

    heard = _yes_no("Whether the click is heard", "heard")
    counted = _yes_no("Whether each click is counted aloud as well", "counted aloud")
    voice = forms.ChoiceField(label="Voice")
    accent_voice = forms.ChoiceField(label="Voice of accents", required=False)
    seen = _yes_no("Whether the click is seen", "seen")
    felt = _yes_no("Whether the click is felt", "felt")

    class Meta:
        model = Delivery
        fields = ["heard", "voice", "accent_voice", "level", "accent", "side", "counted", "seen", "felt"]
        labels = {"level": "Level", "accent": "Level of accents", "side": "Which ear it is in"}
        widgets = {"level": forms.HiddenInput}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        offered = choices(self.instance.player)
        self.fields["voice"].choices = offered  # type: ignore[attr-defined]
        self.fields["accent_voice"].choices = [("", "the same, higher"), *offered]  # type: ignore[attr-defined]
        for name, field in self.fields.items():
            field.widget.attrs |= {"class": "word", "aria-label": field.label, "id": f"id_delivery_{name}"}
            if name in (*WAYS, "counted"):
                self.initial[name] = "yes" if getattr(self.instance, name) else "no"

        self.fields["heard"].required = self.fields["side"].required = False
        self.fields["counted"].required = False
        told = self.instance
        self.initial["way"] = "heard" if told.heard else "felt" if told.felt else "seen"

    def loudness(self) -> list[LoudnessBar]:
        """Return the bars that show how loud the click is."""
        index = LEVELS.index(Delivery.Level(self.instance.level))
        heights = [6 + 3 * number for number in range(len(LEVELS))]
        return [LoudnessBar(9 * n + 1, 21 - height, height, n <= index) for n, height in enumerate(heights)]

    def word_lead_s(self) -> float:
        """Return how long before its click a word that counts begins."""
        return LEAD_S

    def gains_json(self) -> str:
        """Return the gains as they stand, for a button that lets them be heard."""
        return json.dumps(gains(self.instance))

    def clean(self) -> dict[str, Any]:
        """Refuse a click that can't reach anyone."""
        cleaned = super().clean() or {}
        if self.errors:
            return cleaned
        cleaned["side"] = cleaned["side"] or self.initial["side"]
        for name in ("accent_voice", "counted"):  # words of a fold that an older page does not have
            if name not in self.data:
                cleaned[name] = getattr(self.instance, name)
        if way := cleaned.pop("way", ""):
            was = self.initial["way"]
            if way != was:  # a way alone, or back to what is heard
                cleaned |= {name: name == way for name in WAYS}
            elif "heard" not in self.data:
                cleaned["heard"] = way == "heard"
        if step := cleaned.pop("step", ""):
            index = LEVELS.index(Delivery.Level(cleaned["level"])) + (1 if step == "louder" else -1)
            cleaned["level"] = LEVELS[min(max(index, 0), len(LEVELS) - 1)]
        if not any(cleaned[name] for name in WAYS):
            raise forms.ValidationError("The click must reach you: heard, seen or felt.")
        return cleaned
