"""Set the click."""

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from giusto.drill import Drill
from giusto.errors import GiustoError
from giusto.schedule import schedule
from giusto.voice import LEVELS, click_samples
from studio.drills.clickfile import DOWNLOADS, LONGEST_S, click_file
from studio.drills.forms import SentenceForm
from studio.drills.sentence import facts
from studio.drills.shelf import shelf
from studio.sheet.layout import PHONE, TABLET, WIDE
from studio.sheet.picture import draw_plan, thumbnail
from studio.views import refusal


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
def download(request: HttpRequest, form: str) -> HttpResponseBase:
    """Send the click of the sentence as WAV, FLAC or MIDI."""
    if form not in DOWNLOADS:
        raise Http404
    sentence = SentenceForm(request.GET)
    if not sentence.is_valid():
        return redirect(f"{reverse('drills:set')}?{request.GET.urlencode()}")
    plan = schedule(sentence.made)
    if float(plan.seconds(plan.end_tick)) > LONGEST_S and form != "mid":
        text = f"The drill lasts longer than {LONGEST_S // 60} minutes: ./giusto render writes it to a file."
        return refusal(request, status=422, title="Too long to send.", text=text)
    return FileResponse(click_file(plan, form), as_attachment=True, filename=f"{sentence.built_in.slug}.{form}")


@require_GET
def set_the_click(request: HttpRequest) -> HttpResponse:
    """Show the shelf, the drill as a sentence, and its sheet; by htmx, only sentence and sheet."""
    form = SentenceForm(request.GET)
    drill = form.made if form.is_valid() else form.built_in.drill
    context = {
        "form": form,
        "facts": facts(drill) if form.is_valid() else [],
        "pictures": _pictures(drill) if form.is_valid() else [],
        "downloads": DOWNLOADS,
        "shelf": [(b, thumbnail(schedule(b.drill))) for b in shelf().values()],
    }
    if request.htmx:
        return render(request, "drills/_drill.html", context)  # htmx shows only 2xx answers
    return render(request, "drills/set.html", context, status=200 if form.is_valid() else 422)


def _pictures(drill: Drill) -> list[object]:
    plan = schedule(drill)
    return [draw_plan(plan, columns) for columns in (WIDE, TABLET, PHONE)]
