"""The kinds of word that a sentence has: a number, a choice, a short text."""

from __future__ import annotations

from typing import Any

from django import forms
from django.core.validators import RegexValidator

from giusto.drill.file import PRINTED

printed = RegexValidator(PRINTED, "Without tabs or line breaks, please.")
LONGEST_TEXT = 20_000  # ours: turns of five hundred places


def number(label: str, *, least: float = 1, most: float, whole: bool = True, blank: str = "") -> forms.Field:
    """Return a number that stands as a word of the sentence; ``blank`` stands there for none, if none will do."""
    mode = "numeric" if whole else "decimal"
    attrs: dict[str, Any] = {"class": "word w-count", "inputmode": mode, "autocomplete": "off", "maxlength": 20}
    if blank:
        attrs["placeholder"] = blank
    errors = {"min_value": f"{least:g} at least, please.", "max_value": f"{most:g} at most, please."}
    errors["invalid"] = "A whole number, please." if whole else "A number, please."
    errors["required"] = errors["invalid"]
    widget = forms.TextInput(attrs=attrs)
    if whole:
        return forms.IntegerField(
            label=label,
            required=not blank,
            min_value=int(least),
            max_value=int(most),
            widget=widget,
            error_messages=errors,
        )
    return forms.FloatField(
        label=label, required=not blank, min_value=least, max_value=most, widget=widget, error_messages=errors
    )


def choice(label: str, words: dict[str, str]) -> forms.ChoiceField:
    """Return a choice that stands as a word of the sentence."""
    return forms.ChoiceField(label=label, choices=list(words.items()), widget=forms.Select(attrs={"class": "word"}))


def whole_choice(label: str, words: dict[int, str]) -> forms.TypedChoiceField:
    """Return a choice of whole numbers that stands as a word of the sentence."""
    widget = forms.Select(attrs={"class": "word"})
    return forms.TypedChoiceField(label=label, coerce=int, choices=list(words.items()), widget=widget)


def text(label: str, *, allowed: str, hint: str, placeholder: str = "") -> forms.CharField:
    """Return a short text that stands as a word of the sentence."""
    attrs = {"class": "word w-text", "autocomplete": "off", "spellcheck": "false", "placeholder": placeholder}
    checks = [RegexValidator(allowed, message=f"Write it such as {hint}.")]
    widget = forms.TextInput(attrs=attrs)
    return forms.CharField(label=label, required=False, max_length=LONGEST_TEXT, validators=checks, widget=widget)
