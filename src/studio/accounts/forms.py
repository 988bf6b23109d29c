"""What a player says of themselves, as words of a sentence."""

from __future__ import annotations

from typing import Any
from zoneinfo import available_timezones

from django import forms

from studio.accounts.models import Player
from studio.vocabulary import NoteNames

# The parts of the world that IANA's names begin with; other names (US/Central, GMT+1) are older, or of no place.
AREAS = ("Africa", "America", "Antarctica", "Arctic", "Asia", "Atlantic", "Australia", "Europe", "Indian", "Pacific")
# Of each family the three that tell it apart: all five are cut off on a phone.
NAMES = (
    (NoteNames.AMERICAN, "quarter, eighth, sixteenth"),
    (NoteNames.BRITISH, "crotchet, quaver, semiquaver"),
)


def zones() -> list[tuple[str, Any]]:
    """Return the time zones as choices, by the parts of the world; older names and those of no place come last."""
    by_area: dict[str, list[tuple[str, str]]] = {}
    for zone in sorted(available_timezones()):
        area, _, place = zone.replace("_", " ").partition("/")
        known = area if area in AREAS else ""
        by_area.setdefault(known, []).append((zone, f"as in {place}" if known else f"as in {zone.replace('_', ' ')}"))
    others = by_area.pop("", [])
    return [("", "as this machine’s"), *by_area.items(), ("By other names", others)]


class PlayerForm(forms.ModelForm):
    """Name, instrument, time zone and words."""

    time_zone = forms.ChoiceField(required=False, choices=zones)
    note_names = forms.ChoiceField(choices=NAMES)

    class Meta:
        model = Player
        fields = ("display_name", "instrument", "time_zone", "note_names", "counts")

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        hints = {"display_name": "your name", "instrument": "an instrument"}
        for name, field in self.fields.items():
            kind = "word w-name" if name in hints else "word"
            field.widget.attrs |= {"class": kind, "aria-label": field.label, "placeholder": hints.get(name, "")}
