"""Set the click: the sentence, its sheet, and what is taken away from there."""

from __future__ import annotations

import json
from typing import Any

from django import forms
from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_safe

from giusto.click.said import word_samples
from giusto.click.voice import LEVELS, VOICES, click_samples
from giusto.drill.file import HIGHEST_BPM, LOWEST_BPM
from giusto.errors import GiustoError
from giusto.notes.taps import tapped_tempo
from giusto.schedule import schedule
from studio.accounts.requests import PlayerRequest
from studio.drills.clickfile import DOWNLOADS, LONGEST_S, MOST_CLICKS, click_file
from studio.drills.draw import drawn, is_anew
from studio.drills.files import drill_json, file_name
from studio.drills.forms import DeliveryForm, KeepForm
from studio.drills.just import just_the_click
from studio.drills.models import OWN, OwnDrill, delivery_of
from studio.drills.origin import origin_of
from studio.drills.sentence.codec import is_whole, query, words_of
from studio.drills.sentence.form import SentenceForm
from studio.drills.sentence.prose import facts, length_words
from studio.drills.sentence.steps import feel_steps, marks, step_rows
from studio.drills.shelf import family_name, shelf
from studio.drills.shelf_families import families
from studio.drills.taken import remember_taken
from studio.drills.voices import voice_of
from studio.refusals import refusal
from studio.sheet.picture import draw_plan
from studio.vocabulary import school

MOST_TAPS = 64
LONGEST_NAME = 60
WORDS_VOICE = "words"  # in addresses of sounds: the counting voice


@require_safe
@cache_control(max_age=3600, private=True)
def sound(request: PlayerRequest, voice: str, kind: str, rate_hz: int) -> HttpResponse:
    """Send one click, or a word that counts, as 32-bit floats, for the browser to play."""
    try:
        if voice == WORDS_VOICE:
            samples = word_samples(kind, rate_hz=rate_hz)
        elif kind in LEVELS and (voice in VOICES or voice.startswith(OWN)):
            samples = click_samples(voice_of(request.user, voice), kind, rate_hz=rate_hz)
        else:
            raise Http404
    except GiustoError:
        raise Http404 from None
    return HttpResponse(samples.astype("<f4").tobytes(), content_type="application/octet-stream")


@require_safe
def taps(request: PlayerRequest) -> JsonResponse:
    """Answer the tempo of taps, given as seconds: ``?s=0,0.51,1.02``."""
    try:
        found = tapped_tempo([float(text) for text in request.GET.get("s", "").split(",")][-MOST_TAPS:])
    except ValueError as error:
        return JsonResponse({"error": str(error)}, status=422)
    if found.bpm is None or not LOWEST_BPM <= found.bpm <= HIGHEST_BPM:
        return JsonResponse({"bpm": None, "text": "Tap on."})
    text = f"{found.bpm:.1f}, {found.used} taps"
    if found.ci95_bpm:
        text = f"{found.bpm:.1f}, between {found.ci95_bpm[0]:.1f} and {found.ci95_bpm[1]:.1f}, {found.used} taps"
    if found.strays:
        text += f", {found.strays} left out"
    return JsonResponse({"bpm": round(found.bpm), "text": f"{text}."})


@require_safe
def download(request: PlayerRequest, form: str) -> HttpResponseBase:
    """Send the drill of the sentence, or its click as WAV, FLAC or MIDI."""
    if form not in (*DOWNLOADS, "json"):
        raise Http404
    sentence = sentence_of(request)
    if not sentence.is_valid():
        return redirect(f"{reverse('drills:set')}?{request.GET.urlencode()}")
    name = file_name(sentence.made.name)
    if form == "json":
        headers = {"Content-Disposition": f'attachment; filename="{name}"'}
        return HttpResponse(drill_json(sentence.made), content_type="application/json", headers=headers)
    drill = drawn(sentence.made)
    if drill != sentence.made:
        name = name.replace(".json", f"-{words_of(drill)['seed']}.json")  # to be found again
    plan = schedule(drill)
    if len(plan.clicks) > MOST_CLICKS or (float(plan.seconds(plan.end_tick)) > LONGEST_S and form != "mid"):
        text = f"It lasts longer than {LONGEST_S // 60} minutes or has more than {MOST_CLICKS:,} clicks: "
        text += "./giusto render writes it to a file."
        return refusal(request, status=422, title="Too long to send.", text=text)
    remember_taken(request, query(words_of(drill), drill=sentence.origin.key))
    delivery = delivery_of(request.user)
    voice, counted = voice_of(request.user, delivery.voice), school() if delivery.counted else ""
    return FileResponse(
        click_file(plan, form, voice=voice, counted=counted),
        as_attachment=True,
        filename=name.replace(".json", f".{form}"),
    )


@require_safe
def set_the_click(request: PlayerRequest) -> HttpResponse:
    """Show the shelf, the drill as a sentence, and its sheet; by htmx, only what changes."""
    form = sentence_of(request)
    status = 200 if form.is_valid() else 422
    if not request.htmx:
        _say_unknown(request, form)
        return page(request, form, status=status)
    context = drill_context(form) | {"delivery": DeliveryForm(instance=delivery_of(request.user))}
    answer = render(request, "drills/_sentence.html", context, status=status)
    if form.is_valid():
        answer["HX-Replace-Url"] = f"{reverse('drills:set')}?{form.link()}"
    return answer


def _say_unknown(request: PlayerRequest, form: SentenceForm) -> None:
    """Say that a drill that the address names is not there, where the address doesn't carry it whole."""
    asked = request.GET.get("drill", "")
    if asked and asked != form.origin.key and not is_whole(request.GET.dict()):
        messages.info(request, f"There is no drill “{asked[:LONGEST_NAME]}” here: this is one to begin with.")


def sentence_of(request: PlayerRequest) -> SentenceForm:
    """Return the sentence that an address asks for."""
    return SentenceForm(request.GET, origin=origin_of(request.user, request.GET.get("drill")))


def page(
    request: PlayerRequest, form: SentenceForm, *, keep: KeepForm | None = None, status: int = 200
) -> HttpResponse:
    """Show the whole page of a sentence, with what was said to keep it where that was refused."""
    own = OwnDrill.objects.visible_to(request.user)
    context = {
        **drill_context(form, keep=keep),
        "families": families(form.origin, own),
        "has_own": own.exists(),
        "delivery": DeliveryForm(instance=delivery_of(request.user)),
        "deleted": _deleted(request),
    }
    return render(request, "drills/set.html", context, status=status)


def drill_context(form: SentenceForm, *, keep: KeepForm | None = None) -> dict[str, Any]:
    """Return what the sentence and its sheet show."""
    is_simulated = form["by"].value() == "simulated"
    shown = {"form": form, "origin": form.origin, "here": reverse("drills:set"), "is_simulated": is_simulated}
    shown["in_minutes"] = form["lasts"].value() == "minutes"
    if not form.is_valid():
        return {**shown, "family_name": family_name(form.origin.family)}
    plan, words = schedule(form.made), form.words()
    start = {"name": form.made.name, "family": form.family(), "words": form.link()}
    return {
        **shown,
        **_guide(form),
        "family_name": family_name(form.family()),
        "name": form.made.name,
        "is_anew": is_anew(form.made),
        "facts": [fact for fact in facts(plan) if fact],
        "length": length_words(plan),
        "just": json.dumps(just_the_click(form.made, school=school())),
        "picture": draw_plan(plan),
        "step_rows": step_rows(form.made, words),
        "feel_steps": feel_steps(form.made, words),
        "marks": marks(form.made, words, parts=form.cleaned_data["marks"]),
        "downloads": DOWNLOADS,
        "link": form.link(),
        "keep": keep or KeepForm(initial=start, auto_id="id_keep_%s"),
    }


def _guide(form: SentenceForm) -> dict[str, Any]:
    """Return the guide of the built-in drill, while the sentence still is one of it, and the drills it names."""
    guide = form.origin.guide
    if guide is None or not form.is_of_origin:
        return {}
    return {
        "guide": guide,
        "easier": shelf().get(guide.easier.drill or ""),
        "harder": shelf().get(guide.harder.drill or ""),
    }


def _deleted(request: PlayerRequest) -> OwnDrill | None:
    """Return the drill that was deleted just now, so that the page can offer to undo it."""
    asked = forms.UUIDField(required=False)
    try:
        pk = asked.clean(request.GET.get("deleted"))
    except forms.ValidationError:
        return None
    return OwnDrill.objects.of(request.user).exclude(deleted_at=None).filter(pk=pk).first() if pk else None
