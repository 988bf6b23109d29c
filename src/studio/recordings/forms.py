"""A recording's file."""

from __future__ import annotations

from django import forms
from django.core.files.uploadedfile import UploadedFile

from giusto.hearing.allowed import ALLOWED
from giusto.hearing.content import LOOKED_AT, content

NO_SOUND = f"This is text, and no list of onsets: it has no column time_s. Allowed are {ALLOWED}, .mid and .csv."


class RecordingForm(forms.Form):
    """A recording's file, and whether its sound is kept."""

    file = forms.FileField(label="The recording", error_messages={"required": "Choose a file first."})
    keeps_sound = forms.BooleanField(required=False, label="Keep the sound too")

    def clean_file(self) -> UploadedFile:
        """Refuse what is no recording by how it begins; what is in it the worker finds out, behind the page."""
        file: UploadedFile = self.cleaned_data["file"]
        beginning = file.read(LOOKED_AT)
        file.seek(0)
        if content(beginning) == "text" and b"time_s" not in beginning.partition(b"\n")[0]:
            raise forms.ValidationError(NO_SOUND)
        return file
