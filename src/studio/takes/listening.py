"""The sound of a take, where it was kept: played beside the reading, or forgotten."""

from __future__ import annotations

import io
from uuid import UUID

import soundfile
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from giusto.click.beside import click_beside
from studio.accounts.requests import PlayerRequest
from studio.drills.models import delivery_of
from studio.drills.voices import voice_of
from studio.takes import actions
from studio.takes.models import KeptSound, Take
from studio.takes.plan import plan_of

MOST_S = 120.0  # of an excerpt; ours
AROUND_S = 1.0  # before and after what is asked for
FARTHEST_S = 1e6


@require_safe
def sound(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Send an excerpt of a take's sound as WAV: from one drill time to another, else its first minutes.

    With ``click=beside`` its drill's clicks sound too, softly also those that were withheld.
    """
    kept = get_object_or_404(
        KeptSound.objects.select_related("take"), take__in=Take.objects.visible_to(request.user).filter(pk=take_id)
    )
    if not kept.file.storage.exists(str(kept.file.name)):  # a backup has the rows alone
        raise Http404
    from_s, to_s = (_seconds(request.GET.get(name)) for name in ("from", "to"))
    with kept.file.open("rb") as content, soundfile.SoundFile(content) as read:
        rate_hz = read.samplerate
        first_s = 0.0 if from_s is None else kept.zero_s + (from_s - AROUND_S) * kept.rate
        last_s = first_s + MOST_S if to_s is None else kept.zero_s + (to_s + AROUND_S) * kept.rate
        first = min(max(round(first_s * rate_hz), 0), read.frames)
        read.seek(first)
        most = round(MOST_S * rate_hz)
        frames = min(max(round(last_s * rate_hz) - first, 0), most)
        samples = read.read(frames, dtype="float32", always_2d=True).mean(axis=1)
    if request.GET.get("click") == "beside":
        voice = voice_of(request.user, delivery_of(request.user).voice)
        at = {"first_s": first / rate_hz, "zero_s": kept.zero_s, "rate": kept.rate}
        samples = click_beside(samples, rate_hz, plan_of(kept.take), voice=voice, **at)
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, rate_hz, format="WAV", subtype="PCM_16")
    return HttpResponse(buffer.getvalue(), content_type="audio/wav")


@require_POST
def delete_sound(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Forget the sound of a take; its notes stay."""
    take = get_object_or_404(Take.objects.visible_to(request.user), pk=take_id)
    actions.delete_sound(player=request.user, take=take)
    return redirect(take)


def _seconds(text: str | None) -> float | None:
    """Return a drill time of an address; None where there is none, or where it makes none."""
    try:
        found = float(text or "")
    except ValueError:
        return None
    return found if abs(found) < FARTHEST_S else None
