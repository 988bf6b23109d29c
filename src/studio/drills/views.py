"""Set the click: the sentence, its sheet, and what is taken away from there."""

from __future__ import annotations

from typing import Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from giusto.errors import GiustoError
from giusto.schedule import schedule
from giusto.tempo_scale import tapped_tempo
from giusto.voice import LEVELS, click_samples
from studio.drills.clickfile import DOWNLOADS, LONGEST_S, click_file
from studio.drills.files import drill_json, file_name
from studio.drills.forms import KeepForm, ReachForm
from studio.drills.models import OwnDrill, reach_of
from studio.drills.nav import families
from studio.drills.origin import origin_of
from studio.drills.sentence import facts
from studio.drills.sentence_form import SentenceForm
from studio.drills.shelf import family_name, shelf
from studio.drills.tools import key_steps, marks, tempo_steps
from studio.sheet.layout import PHONE, TABLET, WIDE
from studio.sheet.picture import draw_plan
from studio.views import refusal

MOST_TAPS = 64


@require_GET
@cache_control(max_age=3600, private=True)
def sound(request: HttpRequest, voice: str, kind: str, rate_hz: int) -> HttpResponse:
    """Send one click as 32-bit floats, for the browser to play."""
    if kind not in LEVELS:
        raise Http404
    try:
        samples = click_samples(voice, kind, rate_hz=rate_hz)
    except GiustoError:
        raise Http404 from None
    return HttpResponse(samples.astype("<f4").tobytes(), content_type="application/octet-stream")


@require_GET
def taps(request: HttpRequest) -> JsonResponse:
    """Answer the tempo of taps, given as seconds: ``?s=0,0.51,1.02``."""
    try:
        found = tapped_tempo([float(text) for text in request.GET.get("s", "").split(",")][-MOST_TAPS:])
    except ValueError as error:
        return JsonResponse({"error": str(error)}, status=422)
    if found.bpm is None or not 10 <= found.bpm <= 400:
        return JsonResponse({"bpm": None, "text": "Tap on."})
    text = f"{found.bpm:.1f}, {found.used} taps"
    if found.ci95_bpm:
        text = f"{found.bpm:.1f}, between {found.ci95_bpm[0]:.1f} and {found.ci95_bpm[1]:.1f}, {found.used} taps"
    if found.strays:
        text += f", {found.strays} left out"
    return JsonResponse({"bpm": round(found.bpm), "text": f"{text}."})


@require_GET
def download(request: HttpRequest, form: str) -> HttpResponseBase:
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
    plan = schedule(sentence.made)
    if float(plan.seconds(plan.end_tick)) > LONGEST_S and form != "mid":
        text = f"The drill lasts longer than {LONGEST_S // 60} minutes: ./giusto render writes it to a file."
        return refusal(request, status=422, title="Too long to send.", text=text)
    voice = reach_of(request.user).voice
    return FileResponse(
        click_file(plan, form, voice=voice), as_attachment=True, filename=name.replace(".json", f".{form}")
    )


@require_GET
def set_the_click(request: HttpRequest) -> HttpResponse:
    """Show the shelf, the drill as a sentence, and its sheet; by htmx, only what changes."""
    form = sentence_of(request)
    if not request.htmx:
        return page(request, form, status=200 if form.is_valid() else 422)
    part = "drills/_sentence.html" if request.htmx.target == "drill" else "drills/_drill.html"
    answer = render(request, part, drill_context(form))  # htmx shows only 2xx answers
    if form.is_valid():
        answer["HX-Replace-Url"] = f"{reverse('drills:set')}?{form.link()}"
    return answer


def sentence_of(request: HttpRequest) -> SentenceForm:
    """Return the sentence that an address asks for."""
    return SentenceForm(request.GET, origin=origin_of(request.user, request.GET.get("drill")))


def page(request: HttpRequest, form: SentenceForm, *, keep: KeepForm | None = None, status: int = 200) -> HttpResponse:
    """Show the whole page of a sentence, with what was said to keep it where that was refused."""
    own = OwnDrill.objects.visible_to(request.user)
    reach = reach_of(request.user)
    deleted = OwnDrill.objects.of(request.user).exclude(deleted_at=None)
    context = {
        **drill_context(form, keep=keep),
        **_ways(form),
        "families": families(form.origin, own),
        "has_own": own.exists(),
        "reach": ReachForm(instance=reach),
        "care": reach.care_read_at is None,
        "deleted": deleted.filter(pk=request.GET["deleted"]).first() if _is_id(request.GET.get("deleted")) else None,
    }
    return render(request, "drills/set.html", context, status=status)


def drill_context(form: SentenceForm, *, keep: KeepForm | None = None) -> dict[str, Any]:
    """Return what the sentence and its sheet show."""
    if not form.is_valid():
        return {"form": form, "origin": form.origin, "family_name": family_name(form.origin.family)}
    plan, words = schedule(form.made), form.words()
    start = {"name": form.made.name, "family": form.family(), "words": form.link()}
    return {
        "form": form,
        "origin": form.origin,
        "family_name": family_name(form.family()),
        "name": form.made.name,
        "facts": [fact for fact in facts(plan) if fact],
        "pictures": [draw_plan(plan, columns) for columns in (WIDE, TABLET, PHONE)],
        "tempo_steps": tempo_steps(form.made, words),
        "key_steps": key_steps(form.made, words),
        "marks": marks(form.made, words, parts=form.cleaned_data["marks"]),
        "downloads": DOWNLOADS,
        "link": form.link(),
        "keep": keep or KeepForm(initial=start, auto_id="id_keep_%s"),
    }


def _ways(form: SentenceForm) -> dict[str, Any]:
    """Return the drills that lie an easier and a harder step away, where the guide names them."""
    guide = form.origin.guide
    return (
        {"easier": shelf().get(guide.easier.drill or ""), "harder": shelf().get(guide.harder.drill or "")}
        if guide
        else {}
    )


def _is_id(text: str | None) -> bool:
    return bool(text) and len(text or "") == 36 and (text or "").replace("-", "").isalnum()
