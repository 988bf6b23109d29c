"""What belongs to a ladder's exercise: its parts, its player's words, attempts that were made elsewhere."""

from __future__ import annotations

from uuid import UUID

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from giusto.drill.json_file import MAX_BYTES
from giusto.errors import GiustoError
from giusto.missing import Missing
from giusto.practice.ladder import parse_attempts, write_attempts
from studio.accounts.requests import PlayerRequest
from studio.drills.files import file_name
from studio.exercises.actions import describe_exercise
from studio.ladders import actions
from studio.ladders.forms import LadderFileForm
from studio.ladders.leaning import draw_places, leans_of
from studio.ladders.models import Ladder
from studio.ladders.part_forms import SplitForm, WordsForm
from studio.ladders.parts import split as split_exercise
from studio.ladders.standing import standings
from studio.takes.rushing import leaning_words


@require_POST
def split(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Split a ladder's exercise by hands, keys and sections."""
    ladder, form = _own(request, ladder_id), SplitForm(request.POST)
    if not form.is_valid():
        for error in (error for some in form.errors.values() for error in some):
            messages.error(request, str(error))
        return redirect(ladder)
    try:
        new = split_exercise(player=request.user, ladder=ladder, **form.cleaned_data)
    except actions.ClimbError as error:
        messages.error(request, str(error))
    else:
        messages.success(request, f"{new} new part{'' if new == 1 else 's'}, each with a ladder of its own.")
    return redirect(f"{ladder.get_absolute_url()}#parts")


@require_POST
def describe(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Keep what is to be done next time, and the notes on an exercise."""
    ladder = _own(request, ladder_id)
    form = WordsForm(request.POST, instance=ladder.exercise)
    if form.is_valid():
        describe_exercise(player=request.user, exercise=ladder.exercise, **form.cleaned_data)
        messages.success(request, "Kept.")
    else:
        messages.error(request, " ".join(str(error) for some in form.errors.values() for error in some))
    return redirect(ladder)


@require_safe
def places(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Show where the takes of a ladder's exercise lean."""
    ladder = _own(request, ladder_id)
    found = leans_of(ladder)
    picture = None if isinstance(found, Missing) or not found else draw_places(found)
    context = {"ladder": ladder, "said": leaning_words(found, cycle="bar"), "picture": picture}
    return render(request, "ladders/places.html", context)


@require_safe
def attempts_out(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Send all attempts on a ladder as CSV."""
    ladder = _own(request, ladder_id)
    text = write_attempts(standings([ladder], timezone.now())[0].attempts)
    name = file_name(ladder.name).removesuffix(".json")
    headers = {"Content-Disposition": f'attachment; filename="{name}-attempts.csv"'}
    return HttpResponse(text, content_type="text/csv; charset=utf-8", headers=headers)


@require_POST
def attempts_in(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Bring in attempts that were kept elsewhere: all lines of the file, or none."""
    ladder, form = _own(request, ladder_id), LadderFileForm(request.POST, request.FILES)
    if not form.is_valid():
        messages.error(request, "Choose a file first.")
        return redirect(ladder)
    try:
        text = form.cleaned_data["file"].read(MAX_BYTES + 1)
        if len(text) > MAX_BYTES:
            raise GiustoError(f"the file is larger than {MAX_BYTES:,} bytes", code="size")
        new = actions.keep_attempts(
            player=request.user, ladder=ladder, attempts=parse_attempts(text, rungs=len(ladder.core.values))
        )
    except GiustoError as error:
        messages.error(request, f"Nothing was brought in: {error}.")
    else:
        messages.success(request, f"{new} attempt{'' if new == 1 else 's'} brought in.")
    return redirect(ladder)


@require_POST
def attempts_forgotten(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Forget what came in from elsewhere."""
    ladder = _own(request, ladder_id)
    actions.forget_attempts(player=request.user, ladder=ladder)
    return redirect(ladder)


def _own(request: PlayerRequest, ladder_id: UUID) -> Ladder:
    ladders = Ladder.objects.visible_to(request.user).select_related("exercise", "player")
    found: Ladder = get_object_or_404(ladders, pk=ladder_id)
    return found
