"""A recording made elsewhere while the click played: dropped on the page, heard, kept as a take like any other."""

from __future__ import annotations

import tempfile
from pathlib import Path
from uuid import uuid4

from django import forms
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from giusto.drill import Drill
from giusto.errors import GiustoError
from giusto.hearing.recording import Recording, recorded
from giusto.hearing.sound import SoundFile
from giusto.schedule import schedule
from studio.accounts.models import Player
from studio.accounts.requests import PlayerRequest
from studio.drills.sentence.prose import tempo_words, title
from studio.drills.views import sentence_of
from studio.takes.actions import add_batch, begin_take, end_take
from studio.takes.messages import Begin, End, Note, Notes
from studio.takes.models import Take
from studio.takes.reading import read_take

ENDINGS = (".wav", ".flac", ".mid", ".midi")
MOST_S = 300  # ours: longer ones would keep the page waiting; ./giusto analyse hears them
ZERO_S = 2.0  # of the stamps: notes may come before the drill's time zero
BATCH_NOTES = 1000


class RecordingForm(forms.Form):
    """A recording's file."""

    file = forms.FileField(label="The recording", error_messages={"required": "Choose a file first."})

    def clean_file(self) -> UploadedFile:
        """Refuse what is neither sound nor MIDI by its name."""
        file: UploadedFile = self.cleaned_data["file"]
        if Path(str(file.name)).suffix.lower() not in ENDINGS:
            raise forms.ValidationError(f"Allowed are {', '.join(ENDINGS)}.")
        return file


@require_http_methods(["GET", "HEAD", "POST"])
def from_recording(request: PlayerRequest) -> HttpResponse:
    """Take in a recording of the drill of a sentence, and show its reading; or say what is wrong."""
    sentence = sentence_of(request)
    if not sentence.is_valid():
        return redirect(f"{reverse('drills:set')}?{request.GET.urlencode()}")
    drill = sentence.made
    is_sent = request.method == "POST"
    form = RecordingForm(request.POST, request.FILES) if is_sent else RecordingForm()
    if form.is_bound and form.is_valid():
        try:
            found = heard_file(form.cleaned_data["file"], drill)
        except GiustoError as error:
            form.add_error("file", f"{str(error)[0].upper()}{str(error)[1:]}.")
        else:
            return redirect(keep_recording(player=request.user, drill=drill, origin=sentence.origin.key, found=found))
    context = {
        "form": form,
        "drill": drill,
        "name": drill.name or title(drill),
        "tempo": tempo_words(drill),
        "words": request.GET.urlencode(),
        "most_minutes": MOST_S // 60,
    }
    return render(request, "takes/recording.html", context, status=422 if form.errors else 200)


def heard_file(file: UploadedFile, drill: Drill) -> Recording:
    """Return what is heard in an uploaded recording; the file itself is not kept.

    Raises
    ------
    GiustoError
        Where it can't be read, is too long, or nothing in it can be a take.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"take{Path(str(file.name)).suffix.lower()}"
        with path.open("wb") as written:
            for chunk in file.chunks():
                written.write(chunk)
        if path.suffix in (".wav", ".flac"):
            with SoundFile(path) as sound:
                if (seconds := sound.frames / sound.rate_hz) > MOST_S:
                    problem = f"the recording lasts {seconds:.0f} s, allowed are {MOST_S} here"
                    raise GiustoError(f"{problem}: ./giusto analyse hears longer ones", code="too_long")
        return recorded(path, schedule(drill))


def keep_recording(*, player: Player, drill: Drill, origin: str, found: Recording) -> Take:
    """Keep the notes of a recording as a take, with what their times rest on, and read it."""
    source = {name: value for name, value in found.source().items() if not isinstance(value, list)}
    begin = Begin(
        drill=drill.plain(),
        origin=origin,
        input="recording",
        device={"browser": "recording", **source, "remark": " ".join(found.remarks)[:400]},
        zero_audio_s=ZERO_S,
        started_at=timezone.now(),
    )
    take = begin_take(player=player, take_id=uuid4(), message=begin)
    notes = found.notes
    stamps = [round(1000 * (onset_s + ZERO_S), 4) for onset_s in notes.onset_s.tolist()]
    records = [
        Note(at_ms=max(at_ms, 0.0), source=found.kind, strength=None if strength != strength else strength)
        for at_ms, strength in zip(stamps, notes.strength.tolist(), strict=True)
    ]
    batches = [records[i : i + BATCH_NOTES] for i in range(0, len(records), BATCH_NOTES)]
    pairs = [(ms / 1000, ms) for ms in (max(stamps[0], 1.0), max(stamps[-1], 1.0) + 1.0)]  # one clock
    for number, some in enumerate(batches):
        add_batch(player=player, take=take, number=number, message=Notes(notes=some, pairs=pairs))
    end_take(player=player, take=take, message=End(how="complete", batches=len(batches)))
    read_take(take.pk)
    return take
