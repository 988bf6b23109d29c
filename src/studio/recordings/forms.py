"""A recording's file."""

from __future__ import annotations

import tempfile
from pathlib import Path

from django import forms
from django.core.files.uploadedfile import UploadedFile

from giusto.errors import GiustoError
from giusto.hearing.sound import SoundFile

ENDINGS = (".wav", ".flac", ".mid", ".midi", ".csv")


class RecordingForm(forms.Form):
    """A recording's file, and whether its sound is kept."""

    file = forms.FileField(label="The recording", error_messages={"required": "Choose a file first."})
    keeps_sound = forms.BooleanField(required=False, label="Keep the sound too")

    def clean_file(self) -> UploadedFile:
        """Refuse what is no recording, by its name and by how its content begins."""
        file: UploadedFile = self.cleaned_data["file"]
        ending = Path(str(file.name)).suffix.lower()
        if ending not in ENDINGS:
            raise forms.ValidationError(f"Allowed are {', '.join(ENDINGS)}.")
        if ending in (".wav", ".flac"):
            _check_sound(file, ending)
        return file


def _check_sound(file: UploadedFile, ending: str) -> None:
    """Refuse at once what no sound can be read from; a file in memory is written down for that."""
    try:
        if hasattr(file, "temporary_file_path"):
            SoundFile(Path(file.temporary_file_path())).close()
            return
        with tempfile.NamedTemporaryFile(suffix=ending) as written:
            for chunk in file.chunks():
                written.write(chunk)
            written.flush()
            SoundFile(Path(written.name)).close()
        file.seek(0)
    except GiustoError as error:
        raise forms.ValidationError(f"{str(error)[0].upper()}{str(error)[1:]}.") from None
