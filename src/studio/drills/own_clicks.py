"""Clicks of the player's own: brought as a short recording, named, put away."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from studio.accounts.requests import PlayerRequest
from studio.drills import voices
from studio.drills.models import OwnClick
from studio.drills.sentence.fields import printed


class OwnClickForm(forms.Form):
    """A short recording, and what it shall be called."""

    file = forms.FileField(label="The sound", error_messages={"required": "Choose a file first."})
    name = forms.CharField(label="Its name", max_length=40, required=False, validators=[printed])

    def clean_file(self) -> UploadedFile:
        """Refuse what no short sound is as large as."""
        file: UploadedFile = self.cleaned_data["file"]
        if (file.size or 0) > voices.MOST_BYTES:
            raise forms.ValidationError(f"It has {file.size:,} bytes, allowed are {voices.MOST_BYTES:,}.")
        return file


@require_http_methods(["GET", "HEAD", "POST"])
def own_click(request: PlayerRequest) -> HttpResponse:
    """Take in a sound for the click; show those that are there."""
    form = OwnClickForm(request.POST or None, request.FILES or None)
    if form.is_bound and form.is_valid():
        found: dict[str, Any] = form.cleaned_data
        return redirect(voices.bring(player=request.user, file=found["file"], name=found["name"]))
    own = OwnClick.objects.of(request.user).filter(put_away_at=None)
    return render(request, "drills/own_click.html", {"form": form, "own": own}, status=422 if form.errors else 200)


@require_POST
def put_away(request: PlayerRequest, key: str) -> HttpResponse:
    """Offer a click no more."""
    own = get_object_or_404(OwnClick.objects.of(request.user), key=key)
    voices.put_away(player=request.user, own=own)
    messages.success(request, f"“{own.name}” is put away.")
    return redirect("drills:own-click")
