"""The page of reach."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_safe

from giusto.drill.file import HIGHEST_BPM, LOWEST_BPM
from giusto.tempo import slot_ms
from studio.accounts.requests import PlayerRequest
from studio.drills.sentence.codec import query, words_of
from studio.reach.alternation import alternation
from studio.reach.picture import draw
from studio.reach.tested import DRILL, FIRST_BEATS, FIRST_BPM, drill_to_try, tempi, tested


@require_safe
def page(request: PlayerRequest) -> HttpResponse:
    """Show how long a silence the player bridges near a tempo, and what to try next."""
    all_tempi = tempi(request.user)
    bpm = _asked_bpm(request.GET.get("bpm", "")) or (all_tempi[0] if all_tempi else FIRST_BPM)
    found = tested(request.user, bpm, timezone.now())
    beat_s = slot_ms(bpm, 1) / 1000
    following = drill_to_try(found.reach.next_beats if found else FIRST_BEATS, bpm)
    words = {**words_of(following), "drill": DRILL}
    context = {
        "bpm": bpm,
        "tempi": [other for other in all_tempi if other != bpm],
        "tested": found,
        "beat_s": beat_s,
        "picture": draw(found, beat_s) if found else None,
        "alternation": alternation(request.user, bpm),
        "silent": following.clicks.silence,
        "play": f"{reverse('takes:play')}?{query(words)}",
    }
    return render(request, "reach/page.html", context)


def _asked_bpm(text: str) -> float | None:
    try:
        bpm = float(text)
    except ValueError:
        return None
    return bpm if LOWEST_BPM <= bpm <= HIGHEST_BPM else None
