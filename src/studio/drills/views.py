"""Set the click."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from giusto.drill import Drill
from giusto.schedule import schedule
from studio.drills.forms import SentenceForm
from studio.drills.sentence import facts, pieces
from studio.drills.shelf import shelf
from studio.sheet.layout import PHONE, TABLET, WIDE
from studio.sheet.picture import draw_plan, thumbnail


@require_GET
def set_the_click(request: HttpRequest) -> HttpResponse:
    """Show the shelf, the drill as a sentence, and its sheet; by htmx, only sentence and sheet."""
    form = SentenceForm(request.GET)
    drill = form.made if form.is_valid() else form.built_in.drill
    context = {
        "form": form,
        "pieces": pieces(drill),
        "facts": facts(drill) if form.is_valid() else [],
        "pictures": _pictures(drill) if form.is_valid() else [],
        "shelf": [(b, thumbnail(schedule(b.drill))) for b in shelf().values()],
    }
    if request.htmx:
        return render(request, "drills/_drill.html", context)  # htmx shows only 2xx answers
    return render(request, "drills/set.html", context, status=200 if form.is_valid() else 422)


def _pictures(drill: Drill) -> list[object]:
    plan = schedule(drill)
    return [draw_plan(plan, columns) for columns in (WIDE, TABLET, PHONE)]
