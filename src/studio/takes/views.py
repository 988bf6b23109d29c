"""Pages: play, and what can be done to a take."""

from __future__ import annotations

from uuid import UUID

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from giusto.drill import Drill, validate
from giusto.figures.silence import held_limit_ms
from giusto.hearing.inputs import Input
from giusto.practice.ceiling import is_probe
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from studio.accounts.requests import PlayerRequest
from studio.drills.clickfile import MOST_CLICKS
from studio.drills.delivery import delivery_plan
from studio.drills.draw import anew, drawn, unseen
from studio.drills.models import delivery_of
from studio.drills.origin import REACH
from studio.drills.sentence.codec import query, words_of
from studio.drills.sentence.note_words import note_word
from studio.drills.sentence.prose import length_words, tempo_words
from studio.drills.views import sentence_of
from studio.exercises.models import Exercise
from studio.hearing.models import BY
from studio.hearing.plan import ear_plan
from studio.ids import uuid_of
from studio.refusals import refusal
from studio.sheet.picture import big_row, draw_small
from studio.takes import actions
from studio.takes.archive import archive
from studio.takes.forms import NoteForm
from studio.takes.lately import last_result, nth_today
from studio.takes.models import Take
from studio.takes.playback import playback, sentence_address, spoken


@require_safe
def play(request: PlayerRequest) -> HttpResponse:
    """Show the page on which a drill is played: a new one from its sentence, or a take's again."""
    form = sentence_of(request)
    if again := request.GET.get("again"):
        take = _own(request, again)
        drill, simulated = _again(take)
        exercise = take.exercise
        origin = (exercise.word if is_probe(drill) else exercise.origin) if exercise else ""
    elif form.is_valid():
        drill, simulated = form.made, form.simulated_player() if form.is_simulated else None
        exercise = Exercise.objects.climbed(request.user, request.GET.get("drill", ""))
        origin = exercise.word if exercise else form.origin.key
    else:
        return redirect(f"{reverse('drills:set')}?{request.GET.urlencode()}")
    words = {**words_of(drill), "drill": origin}
    drill = drawn(drill)
    ear = ear_plan(request.user)
    by = Input(ear["by"])
    if by.is_simulated:
        simulated = simulated or SimulatedPlayer()
    if (clicks := len(schedule(drill).clicks)) > MOST_CLICKS:
        text = f"The drill has {clicks:,} clicks, and a page plays {MOST_CLICKS:,} at most. Fewer bars, please."
        return refusal(request, status=422, title="Too long to play.", text=text)
    shown = schedule(unseen(drill))
    small = draw_small(shown)
    context = {
        "by": by,
        "by_words": BY[by],
        "home": _home(request, origin) or f"{reverse('drills:set')}?{query(words)}",
        "ready": _ready(drill, simulated),
        "nth": nth_today(request.user, exercise),
        "length": length_words(shown),
        "last": last_result(request.user, exercise),
        "held_ms": round(held_limit_ms(drill.tempo.bpm)) if shown.silences else None,
        "drill": drill,
        "part": exercise.part_name if exercise else "",
        "small": small,
        "row": big_row(drill),
        "simulated": simulated,
        "is_probe": is_probe(drill),
        "counts": spoken(drill),
        "plan": playback(
            drill,
            origin=origin,
            simulated=simulated,
            small=small.rows,
            delivery=delivery_plan(delivery_of(request.user)),
            player=str(request.user.pk),
            ear=ear,
        ),
    }
    return render(request, "takes/play.html", context)


@require_safe
def set_again(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Lead back from a take to its drill in the sentence."""
    return redirect(sentence_address(_own(request, take_id)))


@require_POST
def annotate(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Keep the player's note on a take."""
    take = _own(request, take_id)
    form = NoteForm(request.POST, instance=take)
    if form.is_valid():
        actions.annotate_take(player=request.user, take=take, note=form.cleaned_data["note"])
        messages.success(request, "Note kept.")
    else:
        messages.error(request, f"The note was not kept: {form.errors['note'][0]}")
    return redirect(take)


@require_POST
def move(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Call a take one of another exercise."""
    take = _own(request, take_id)
    number = request.POST.get("exercise", "")
    exercise = get_object_or_404(Exercise.objects.of(request.user), pk=int(number) if _is_small(number) else 0)
    actions.move_take(player=request.user, take=take, exercise=exercise)
    messages.success(request, f"It is a take of “{exercise}” now.")
    return redirect(take)


@require_POST
def delete(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Delete a take; the log offers to undo it."""
    actions.delete_take(player=request.user, take=_own(request, take_id))
    return redirect(f"{_log_page(request)}&deleted={take_id}")


@require_POST
def restore(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Undo the deletion of a take."""
    take = get_object_or_404(Take.objects.of(request.user), pk=take_id)
    actions.restore_take(player=request.user, take=take)
    return redirect("log:deleted" if "list" in request.POST else _log_page(request))


@require_safe
def download(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Send a take as drill, onsets and reading in one zip."""
    take = _own(request, take_id)
    if not take.ended_how:
        return render(request, "takes/unfinished.html", {"take": take}, status=409)
    name = f"giusto-{take.started_at:%Y-%m-%d-%H%M}.zip"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(archive(take), content_type="application/zip", headers=headers)


def _log_page(request: PlayerRequest) -> str:
    """Return the address of the page of the log that a form came from."""
    page = request.POST.get("page", "1")
    return f"{reverse('log:page')}?page={page if page.isdecimal() else 1}"


def _is_small(text: str) -> bool:
    return text.isascii() and text.isdecimal() and len(text) < 19


def _home(request: PlayerRequest, origin: str) -> str:
    """Return where a take that was played from a ladder leads back to: that ladder; one of the test to reach."""
    if origin == REACH:
        return reverse("reach:page")
    climbed = Exercise.objects.climbed(request.user, origin)
    return reverse("ladders:exercise", args=[climbed.pk]) if climbed else ""


def _ready(drill: Drill, simulated: SimulatedPlayer | None) -> str:
    """Return what the page says before the take begins: tempo, and what to play."""
    who = "a simulated player plays" if simulated else "play"
    return f"{tempo_words(drill)}: {who} {note_word(drill.tempo.beat, drill.part.grid)}"


def _again(take: Take) -> tuple[Drill, SimulatedPlayer | None]:
    """Return drill and player of a take: to be drawn anew if by chance, and to be played by hand if of the demo."""
    simulated = None if take.player.is_demo else take.simulated
    return anew(validate(take.drill)), SimulatedPlayer(**simulated["player"]) if simulated else None


def _own(request: PlayerRequest, take_id: UUID | str) -> Take:
    takes = Take.objects.visible_to(request.user).select_related("reading", "exercise", "player")
    return get_object_or_404(takes, pk=uuid_of(take_id))
