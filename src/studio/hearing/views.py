"""How a player is heard: the choice, the level, the strokes that count in, and the delays."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

import numpy as np
from django.contrib import messages
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from giusto.click.voice import RATES_HZ
from giusto.errors import GiustoError
from giusto.hearing.count_in import counted_in
from giusto.hearing.delay import FAR_MS, round_trip, tapping_delay
from giusto.hearing.delay import Delay as Measured
from giusto.hearing.inputs import Input
from giusto.hearing.level import level_of
from giusto.hearing.timbre import learned as timbre_learned
from giusto.notes.clock_line import fit_clocks
from giusto.simulation.instrument import SOUNDS, strike
from studio.accounts.requests import PlayerRequest
from studio.drills.delivery import delivery_plan
from studio.drills.models import delivery_of
from studio.drills.voices import voice_of
from studio.hearing import actions, instruments
from studio.hearing.forms import EarForm, LearnForm, SoundForm, TapsForm
from studio.hearing.models import BY, NAME_CHARS, PADS, Delay, Instrument, ear_of
from studio.hearing.plan import STROKE_VARIANTS, ear_plan, sent_clicks_s, tapped_clicks_s
from studio.hearing.words import FAR, level_words
from studio.numbers import numbers_of

FEWEST_STROKES = 2  # ours: of a level check that settles what counts as a note
MOST_STROKES, MOST_SENT = 200, 200


@require_http_methods(["GET", "HEAD", "POST"])
def heard(request: PlayerRequest) -> HttpResponse:
    """Show and change by what the player is heard; the level and the delays beside it."""
    ear = ear_of(request.user)
    form = EarForm(request.POST or None, instance=ear)
    if request.method == "POST" and form.is_valid():
        actions.keep_ear(player=request.user, ear=form.instance)
        if not request.htmx:
            return redirect(_address(request))
        form = EarForm(instance=form.instance)
    plan = {
        "ear": ear_plan(request.user),
        "delivery": delivery_plan(delivery_of(request.user)),
        "sent_s": sent_clicks_s(),
        "tapped_s": tapped_clicks_s(),
    }
    context = {
        "form": form,
        "ear": form.instance,
        "by": Input(form.instance.by),
        "by_words": BY[Input(form.instance.by)],
        "plan_json": json.dumps(plan),
        "delays": Delay.objects.of(request.user),
        "instruments": Instrument.objects.of(request.user) if Input(form.instance.by).is_sound else [],
        "name_chars": NAME_CHARS,
        "pads": [(name, form.instance.pads.get(name, "").replace(":", " ")) for name in PADS],
        "back": _back(request),
    }
    template = "hearing/_heard.html" if request.htmx else "hearing/heard.html"
    return render(request, template, context, status=422 if form.errors else 200)


@require_POST
def listen(request: PlayerRequest) -> HttpResponse:
    """Say how some seconds of sound are heard, and whether strokes in them count a take in."""
    form = SoundForm(request.POST, request.FILES)
    if not form.is_valid():
        return _refused(form.errors)
    level = level_of(form.samples)
    if level.code in ("good", "soft") and level.onset_s.size >= FEWEST_STROKES:
        actions.keep_gate(player=request.user, gate=level.gate)
    gate = instruments.let_in(request.user, level.gate)
    counted = counted_in(level.onset_s, heard_from_s=0.0)
    first_s = form.cleaned_data["frame"] / form.cleaned_data["rate"]
    return JsonResponse(
        {
            "code": level.code,
            "words": level_words(level),
            "threshold_db": gate.threshold_db,
            "refractory_s": gate.refractory_s,
            "strokes": level.onset_s.size,
            "counted": counted and {"last_s": first_s + counted.last_s, "beat_s": counted.beat_s, "bpm": counted.bpm},
        }
    )


@require_POST
def learn(request: PlayerRequest) -> HttpResponse:
    """Learn an instrument from some seconds of it, and keep it under its name."""
    form = LearnForm(request.POST, request.FILES)
    if not form.is_valid():
        return _refused(form.errors)
    try:
        gate = level_of(form.samples).gate
        learned = timbre_learned(form.samples, form.cleaned_data["name"], gate=gate)
        kept = instruments.keep(player=request.user, learned=learned, gate=gate)
    except GiustoError as error:
        return JsonResponse({"error": f"{str(error)[0].upper()}{str(error)[1:]}."}, status=422)
    return JsonResponse({"name": kept.name, "strokes": len(learned.shapes)})


@require_POST
def forget_instrument(request: PlayerRequest, pk: int) -> HttpResponse:
    """Forget an instrument."""
    instruments.forget(player=request.user, instrument=get_object_or_404(Instrument.objects.of(request.user), pk=pk))
    messages.success(request, "Forgotten.")
    return redirect("hearing:heard")


@require_safe
def strokes(request: PlayerRequest) -> HttpResponse:
    """Say whether strokes, by their times in ms, count a take in; ``since``, from when on they were listened for."""
    times_ms = numbers_of(request.GET.get("ms", ""), most=MOST_STROKES)
    since = numbers_of(request.GET.get("since", "[0]"), most=1)
    if times_ms is None or since is None or not since.size:
        problem = f"ms must be a list of times, ascending, at most {MOST_STROKES}, since a list of one"
        return JsonResponse({"error": problem}, status=422)
    try:
        counted = counted_in(times_ms / 1000, heard_from_s=float(since[0]) / 1000)
    except GiustoError as error:
        return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse(
        {"counted": counted and {"last_s": counted.last_s, "beat_s": counted.beat_s, "bpm": counted.bpm}}
    )


@require_POST
def still(request: PlayerRequest) -> HttpResponse:
    """Let strokes begin nothing for the rest of the day, or again."""
    actions.keep_still(player=request.user, still=request.POST.get("still") == "yes")
    return redirect(_back(request) or "drills:set")


@require_POST
def trip(request: PlayerRequest) -> HttpResponse:
    """Measure the round trip from loudspeaker to microphone, and keep it."""
    form = SoundForm(request.POST, request.FILES)
    if not form.is_valid():
        return _refused(form.errors)
    sent = numbers_of(request.POST.get("sent", ""), most=MOST_SENT)
    if sent is None or not sent.size or not np.all(np.diff(sent) > 0):
        problem = f"sent must be a list of frames, ascending, at most {MOST_SENT}"
        return JsonResponse({"error": problem}, status=422)
    sent_s = (sent - form.cleaned_data["frame"]) / form.cleaned_data["rate"]
    voice = voice_of(request.user, delivery_of(request.user).voice)
    return _kept(request, lambda: round_trip(form.samples, sent_s, voice=voice))


@require_POST
def taps(request: PlayerRequest) -> HttpResponse:
    """Measure how taps come after a click, device and habit together, and keep it."""
    form = TapsForm(request.POST)
    if not form.is_valid():
        return _refused(form.errors)
    told = form.cleaned_data
    return _kept(request, lambda: tapping_delay(fit_clocks(told["pairs"]).audio_s(told["taps"]), told["clicks"]))


@require_POST
def forget(request: PlayerRequest, pk: int) -> HttpResponse:
    """Forget a delay."""
    actions.forget_delay(player=request.user, delay=get_object_or_404(Delay.objects.of(request.user), pk=pk))
    messages.success(request, "Forgotten.")
    return redirect("hearing:heard")


@require_safe
@cache_control(max_age=86_400, private=True)
def stroke(request: PlayerRequest, sound: str, number: int, rate: int) -> HttpResponse:
    """Send one stroke of a simulated instrument: 32-bit floats."""
    if sound not in SOUNDS or number >= STROKE_VARIANTS or rate not in RATES_HZ:
        raise Http404
    samples = strike(sound, np.random.default_rng(number), rate_hz=rate).astype("<f4")
    return HttpResponse(samples.tobytes(), content_type="application/octet-stream")


def _kept(request: PlayerRequest, measure: Callable[[], Measured]) -> HttpResponse:
    """Keep what was measured, and say it; or say why it can't be."""
    ear = ear_of(request.user)
    try:
        measured = measure()
    except GiustoError as error:
        return JsonResponse({"error": f"{str(error)[0].upper()}{str(error)[1:]}."}, status=422)
    by, device = request.POST.get("by") or ear.by, request.POST.get("device") or ""
    if by not in BY:
        return JsonResponse({"error": f"by must be one of {', '.join(BY)}"}, status=422)
    delay = actions.keep_delay(
        player=request.user, by=by, device=device, browser=request.headers.get("User-Agent", ""), measured=measured
    )
    half_ms = (delay.high_ms - delay.low_ms) / 2
    words = FAR if Input(by).is_sound and delay.delay_ms > FAR_MS else ""
    told = {"delay_ms": delay.delay_ms, "half_ms": round(half_ms, 2), "count": delay.count, "words": words}
    return JsonResponse(told)


def _refused(errors: Any) -> HttpResponse:
    text = "; ".join(f"{name}: {one}" for name, some in errors.items() for one in some)
    return JsonResponse({"error": text}, status=422)


def _back(request: PlayerRequest) -> str:
    """Return where the page was come from, where that is a ready page of ours."""
    came = urlsplit(request.headers.get("Referer", ""))
    is_ready_page = came.netloc == request.get_host() and came.path == reverse("takes:play")
    back = request.GET.get("back") or (f"{came.path}?{came.query}" if is_ready_page else "")
    return back if url_has_allowed_host_and_scheme(back, allowed_hosts=None) else ""


def _address(request: PlayerRequest) -> str:
    return f"{reverse('hearing:heard')}?{request.GET.urlencode()}"
