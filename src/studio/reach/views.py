"""The page of reach."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_safe

from giusto.drill.file import HIGHEST_BPM, LOWEST_BPM
from giusto.practice.over_takes.reaches import tempi
from giusto.tempo import slot_ms
from studio.accounts.requests import PlayerRequest
from studio.drills.origin import REACH
from studio.drills.sentence.codec import query, words_of
from studio.reach.alternation import alternation
from studio.reach.picture import PHONE, WIDE, draw
from studio.reach.tested import silences_until, tested, to_try

MOST_LISTED = 40  # silences that are listed, each with its page


@require_safe
def page(request: PlayerRequest) -> HttpResponse:
    """Show how long a silence the player bridges near a tempo, and what to try next."""
    now = timezone.now()
    known = silences_until(request.user, now)
    all_tempi = tempi(known)
    trial = to_try(known, _asked_bpm(request.GET.get("bpm", "")), now)
    bpm = trial.bpm
    found = tested(known, trial, now)
    beat_s = slot_ms(bpm, 1) / 1000
    words = {**words_of(trial.drill), "drill": REACH}
    context = {
        "bpm": bpm,
        "tempi": [other for other in all_tempi if other != bpm],
        "tested": found,
        "beat_s": beat_s,
        "pictures": [draw(found, trial.beats, beat_s, size) for size in (WIDE, PHONE)] if found else [],
        "alternation": alternation(request.user, bpm),
        "newest": found.silences[:MOST_LISTED] if found else [],
        "try_beats": trial.beats,
        "play": f"{reverse('takes:play')}?{query(words)}",
    }
    return render(request, "reach/page.html", context)


def _asked_bpm(text: str) -> float | None:
    try:
        bpm = float(text)
    except ValueError:
        return None
    return bpm if LOWEST_BPM <= bpm <= HIGHEST_BPM else None
