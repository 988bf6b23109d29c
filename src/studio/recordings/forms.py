"""A recording's file."""

from __future__ import annotations

from typing import Any

from django import forms
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile

from giusto.hearing.allowed import ALLOWED
from giusto.hearing.content import LOOKED_AT, content
from studio.accounts.models import Player
from studio.recordings.models import Upload

NO_SOUND = f"This is text, and no list of onsets: it has no column time_s. Allowed are {ALLOWED}, .mid and .csv."
WAITING = "{} recordings of yours wait to be heard, allowed are no more: let some be heard, or cancel them."


class RecordingForm(forms.Form):
    """A recording's file, and whether its sound is kept."""

    file = forms.FileField(label="The recording", error_messages={"required": "Choose a file first."})
    keeps_sound = forms.BooleanField(required=False, label="Keep the sound too")

    def __init__(self, *args: Any, player: Player, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.player = player

    def clean_file(self) -> UploadedFile:
        """Refuse what is no recording by how it begins, and more than may wait; the rest the worker finds out."""
        most = settings.RECORDINGS_A_PLAYER
        if most is not None and Upload.objects.of(self.player).unfinished().count() >= most:
            raise forms.ValidationError(WAITING.format(most))
        file: UploadedFile = self.cleaned_data["file"]
        beginning = file.read(LOOKED_AT)
        file.seek(0)
        if content(beginning) == "text" and b"time_s" not in beginning.partition(b"\n")[0]:
            raise forms.ValidationError(NO_SOUND)
        return file
