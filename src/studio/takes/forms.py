"""What a player says of a take: a note, and its sections."""

from django import forms

from giusto.drill.file import MOST_CYCLES
from studio.takes.models import Take

MOST_SECTIONS = 60  # ours


class NoteForm(forms.ModelForm):
    """A player's own words on a take."""

    class Meta:
        model = Take
        fields = ["note"]
        widgets = {"note": forms.Textarea(attrs={"rows": 2, "class": "note-field", "maxlength": 2000})}
        labels = {"note": "Note"}


class SectionsForm(forms.Form):
    """Sections by their cycles, such as ``8 8 4 8``; nothing for quarters."""

    sections = forms.CharField(required=False, max_length=400)

    def clean_sections(self) -> list[int]:
        """Return the cycles of each section."""
        words = self.cleaned_data["sections"].replace(",", " ").split()
        if any(not (word.isascii() and word.isdecimal() and 1 <= int(word[:6]) <= MOST_CYCLES) for word in words):
            raise forms.ValidationError(f"Whole numbers of bars, please, 1 to {MOST_CYCLES}, such as 8 8 4 8.")
        if len(words) > MOST_SECTIONS:
            raise forms.ValidationError(f"{MOST_SECTIONS} sections at most, please.")
        return [int(word) for word in words]
