"""What a player says when keeping a drill, and how the click shall reach them."""

from __future__ import annotations

import json
from typing import Any

from django import forms

from studio.drills.delivery import gains
from studio.drills.models import Delivery
from studio.drills.sentence.fields import printed
from studio.drills.shelf import FAMILIES


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


class DeliveryForm(forms.ModelForm):
    """How the click reaches a player, as words of a sentence."""

    heard = _yes_no("Whether the click is heard", "heard")
    seen = _yes_no("Whether the click is seen", "seen")
    felt = _yes_no("Whether the click is felt", "felt")

    class Meta:
        model = Delivery
        fields = ["heard", "voice", "level", "accent", "seen", "felt"]
        labels = {"voice": "Voice", "level": "Level", "accent": "Level of accents"}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            field.widget.attrs |= {"class": "word", "aria-label": field.label, "id": f"id_delivery_{name}"}
            if name in ("heard", "seen", "felt"):
                self.initial[name] = "yes" if getattr(self.instance, name) else "no"

    def gains_json(self) -> str:
        """Return the gains as they stand, for a button that lets them be heard."""
        return json.dumps(gains(self.instance))

    def clean(self) -> dict[str, Any]:
        """Refuse a click that can't reach anyone."""
        cleaned = super().clean() or {}
        if not self.errors and not any(cleaned[name] for name in ("heard", "seen", "felt")):
            raise forms.ValidationError("The click must reach you: heard, seen or felt.")
        return cleaned
