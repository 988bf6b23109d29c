"""How an exercise is split, as its player types it; and what they write beside an exercise."""

from __future__ import annotations

from typing import Any

from django import forms

from studio.exercises.models import Exercise
from studio.ladders.parts import HANDS

TWELVE = ("C", "F", "B♭", "E♭", "A♭", "D♭", "G♭", "B", "E", "A", "D", "G")  # round the circle of fifths
MOST_PARTS = 72  # ours: twelve keys, three hands, two sections


class SplitForm(forms.Form):
    """How an exercise is split."""

    hands = forms.BooleanField(label="By hands: left, right, together", required=False)
    keys = forms.CharField(
        label="By keys", required=False, max_length=200, widget=forms.TextInput(attrs={"class": "field"})
    )
    sections = forms.CharField(
        label="By sections", required=False, max_length=400, widget=forms.TextInput(attrs={"class": "field"})
    )

    def clean_keys(self) -> list[str]:
        """Return the keys: all twelve for *all*, else as they were typed."""
        words = self.cleaned_data["keys"]
        keys = list(TWELVE) if words.strip().casefold() in ("all", "twelve", "12") else _listed(words)
        return _short(keys, 20, "A key")

    def clean_sections(self) -> list[str]:
        """Return the sections as they were typed."""
        return _short(_listed(self.cleaned_data["sections"]), 60, "A section")

    def clean(self) -> dict[str, Any]:
        """Refuse what splits nothing, or into too many."""
        words = super().clean() or {}
        if self.errors:
            return words
        count = (len(HANDS) if words["hands"] else 1) * max(len(words["keys"]), 1) * max(len(words["sections"]), 1)
        if count == 1:
            raise forms.ValidationError("Say by what it is split: hands, keys or sections.")
        if count > MOST_PARTS:
            raise forms.ValidationError(f"That makes {count} parts, allowed are {MOST_PARTS}.")
        return words


class WordsForm(forms.ModelForm):
    """What a player means to do next time, and their notes."""

    class Meta:
        model = Exercise
        fields = ("next_time", "note")
        widgets = {
            "next_time": forms.TextInput(attrs={"class": "note-field", "autocomplete": "off"}),
            "note": forms.Textarea(attrs={"class": "note-field", "rows": 2}),
        }


def _listed(words: str) -> list[str]:
    """Return what stands between commas, each once."""
    return list(dict.fromkeys(" ".join(word.split()) for word in words.split(",") if word.strip()))


def _short(words: list[str], most: int, what: str) -> list[str]:
    for word in words:
        if len(word) > most or not word.isprintable():
            raise forms.ValidationError(f"{what} has at most {most} characters: “{word[:most]}”.")
    return words
