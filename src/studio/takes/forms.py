"""The note beside a take."""

from django import forms

from studio.takes.models import Take


class NoteForm(forms.ModelForm):
    """A player's own words on a take."""

    class Meta:
        model = Take
        fields = ["note"]
        widgets = {"note": forms.Textarea(attrs={"rows": 2, "class": "note-field", "maxlength": 2000})}
        labels = {"note": "Note"}
