"""Pages: all ladders and those that are ready, one ladder with its rungs and its rule, files in and out."""

from __future__ import annotations

import json
from typing import Any
from uuid import UUID

from django.contrib import messages
from django.http import HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from giusto.drill.json_file import MAX_BYTES
from giusto.errors import DrillError, GiustoError
from giusto.practice.ceiling import Working
from giusto.practice.ladder import Ladder as CoreLadder
from giusto.practice.ladder import parse_ladder
from giusto.schedule import schedule
from studio.accounts.requests import PlayerRequest
from studio.drills.files import file_name
from studio.drills.origin import origin_of
from studio.drills.sentence.form import SentenceForm
from studio.exercises.actions import exercise_for, set_off_day
from studio.exercises.models import Exercise
from studio.ladders import actions, made
from studio.ladders.forms import LadderFileForm, RuleForm
from studio.ladders.keys_picture import draw_keys
from studio.ladders.models import Ladder
from studio.ladders.part_forms import SplitForm, WordsForm
from studio.ladders.parts import following, parts_of, record
from studio.ladders.picture import rungs, summary
from studio.ladders.shelf import ready
from studio.ladders.standing import LadderStanding, play_address, standings
from studio.ladders.words import asked, rung_word, school, why
from studio.takes.actions import say_clean
from studio.takes.ceilings import probe_address, workings_of
from studio.takes.models import Take

MOST_TOLD = 20  # ours: faults of one file
WIDTHS = (("wide", 820.0), ("phone", 350.0))  # px of the picture of keys
SAID = {"clean": True, "not-clean": False, "": None}


@require_safe
def new(request: PlayerRequest) -> HttpResponse:
    """Show the ladders that are ready, and take in a ladder's file."""
    return _new(request, LadderFileForm())


def _new(request: PlayerRequest, file: LadderFileForm) -> HttpResponse:
    begun = set(_visible(request).values_list("slug", flat=True))
    shelf = [(one, school(one.ladder)) for one in ready().values() if one.slug not in begun]
    return render(request, "ladders/new.html", {"ready": shelf, "file": file}, status=422 if file.is_bound else 200)


@require_http_methods(["GET", "HEAD", "POST"])
def climb(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Show a ladder: its rungs, what is asked now and why; its rule can be changed."""
    ladder = _own(request, ladder_id)
    form = RuleForm(request.POST if request.method == "POST" else None, ladder=ladder)
    if form.is_bound and form.is_valid() and form.made:
        fields = {"name": form.cleaned_data["name"], **form.limits}
        ladder = actions.change_ladder(player=request.user, ladder=ladder, made=form.made, **fields)
        if not request.htmx:
            return redirect(ladder)
        form = RuleForm(ladder=ladder)
    context = _shown(ladder, form)
    template = "ladders/_climb.html" if request.htmx else "ladders/climb.html"
    return render(request, template, context, status=422 if form.errors else 200)


@require_POST
def start(request: PlayerRequest) -> HttpResponse:
    """Start a ladder of the shelf; one that was started is gone on with."""
    slug = request.POST.get("slug", "")
    if slug not in ready():
        return redirect("ladders:new")
    there = _visible(request).filter(slug=slug).first()
    try:
        return redirect(there) if there else _started(request, ready()[slug].ladder, slug=slug)
    except actions.ClimbError as error:
        messages.error(request, str(error))
        return redirect("ladders:new")


@require_POST
def climb_drill(request: PlayerRequest) -> HttpResponse:
    """Make a ladder of the drill of a sentence, by tempo, silence, notes, or note by note."""
    words = QueryDict(request.POST.get("words", ""))
    sentence = SentenceForm(words, origin=origin_of(request.user, words.get("drill")))
    if not sentence.is_valid():
        return redirect(f"{reverse('drills:set')}?{words.urlencode()}")
    drill, what = sentence.made, request.POST.get("by", "tempo")
    try:
        if what == made.NOTE_BY_NOTE:
            return _started(request, made.built_up(drill), fused_cycles=made.FUSED_CYCLES)
        exercise = exercise_for(player=request.user, drill=drill, origin=sentence.origin.key)
        working = workings_of(request.user, [exercise.pk]).get(exercise.pk)
        ladder = made.ladder_by(what, drill, working_bpm=working.bpm if working else None)
        return redirect(actions.climb_exercise(player=request.user, exercise=exercise, ladder=ladder))
    except (GiustoError, actions.ClimbError) as error:
        messages.error(request, f"No ladder can be made of this drill: {error}")
        return redirect(f"{reverse('drills:set')}?{words.urlencode()}")


@require_safe
def of_exercise(request: PlayerRequest, exercise_id: int) -> HttpResponse:
    """Lead to the ladder of an exercise; to the drill of which it is the part in a key, where it has none."""
    if ladder := _visible(request).filter(exercise=exercise_id).first():
        return redirect(ladder)
    part = Exercise.objects.of(request.user).filter(pk=exercise_id).select_related("whole").first()
    whole = part.whole if part else None
    return redirect(f"{reverse('drills:set')}?drill={whole.origin}" if whole else "work:page")


@require_POST
def word(request: PlayerRequest, take_id: UUID) -> HttpResponse:
    """Keep the player's word on a take: not clean, clean, or neither."""
    take = get_object_or_404(Take.objects.visible_to(request.user), pk=take_id)
    said = request.POST.get("said", "")
    if said in SAID:
        say_clean(player=request.user, take=take, said=SAID[said])
    return _back(request, take.get_absolute_url())


@require_POST
def off_day(request: PlayerRequest) -> HttpResponse:
    """Call today an off day, or take that back."""
    set_off_day(player=request.user, at=timezone.now(), is_off=request.POST.get("is_off") == "1")
    return _back(request, reverse("work:page"))


@require_POST
def copy(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Start another ladder of the same kind from the beginning, and show it."""
    ladder = _own(request, ladder_id)
    try:
        return redirect(actions.copy_ladder(player=request.user, ladder=ladder))
    except actions.ClimbError as error:
        messages.error(request, str(error))
        return redirect(ladder)


@require_POST
def delete(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Take a ladder down; the page offers to undo it."""
    actions.delete_ladder(player=request.user, ladder=_own(request, ladder_id))
    return redirect(f"{reverse('work:page')}?deleted={ladder_id}")


@require_POST
def restore(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Undo the deletion of a ladder."""
    ladder = get_object_or_404(Ladder.objects.of(request.user), pk=ladder_id)
    return redirect(actions.restore_ladder(player=request.user, ladder=ladder))


@require_safe
def take_out(request: PlayerRequest, ladder_id: UUID) -> HttpResponse:
    """Send a ladder as its file."""
    ladder = _own(request, ladder_id)
    text = json.dumps({**ladder.spec, "name": ladder.name}, indent=2, ensure_ascii=False)
    headers = {"Content-Disposition": f'attachment; filename="{file_name(ladder.name)}"'}
    return HttpResponse(f"{text}\n", content_type="application/json", headers=headers)


@require_POST
def bring_in(request: PlayerRequest) -> HttpResponse:
    """Bring in a ladder's file; what is wrong in it is told, each with its place."""
    form = LadderFileForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            return _started(request, parse_ladder(form.cleaned_data["file"].read(MAX_BYTES + 1)))
        except DrillError as error:
            for fault in error.faults[:MOST_TOLD]:
                form.add_error("file", str(fault))
        except actions.ClimbError as error:
            form.add_error("file", str(error))
    return _new(request, form)


def _shown(ladder: Ladder, form: RuleForm) -> dict[str, Any]:
    now, today = timezone.now(), timezone.localdate()
    standing: LadderStanding = standings([ladder], now)[0]
    parts = parts_of(ladder.player, [ladder.exercise_id], now).get(ladder.exercise_id, [])
    shown = (following(parts) if parts else None) or standing  # of a split exercise, the part that comes next
    core, step = shown.ladder.core, shown.step
    return {
        "ladder": ladder,
        "whole": _whole(ladder),
        "record": record(parts, today) if parts else None,
        "split": SplitForm(),
        "words": WordsForm(instance=ladder.exercise),
        "form": form,
        "what": ladder.core.vary.what,
        "standing": standing,
        "shown": shown,
        "part": shown.ladder.exercise.part_name if parts else "",
        "step": step,
        "here": rung_word(core, step.rung),
        "offered": rung_word(core, step.offered) if step.offered else "",
        "asked": asked(core, step),
        "why": why(core, step, today, is_off=shown.is_off),
        "questions": [(one, rung_word(core, one.rung)) for one in shown.asked_about],
        "latest": shown.tried[-1] if shown.tried else None,
        "takes": sum(len(one.tried) for one in parts) if parts else len(standing.tried),
        "rungs": [] if parts else rungs(standing, today),
        "keys": [draw_keys(parts, shown, name=name, width=width) for name, width in WIDTHS] if parts else [],
        "has_hands": any(one.ladder.exercise.hand for one in parts),
        "summary": summary(standing),
        "has_silences": bool(schedule(ladder.core.drills[0]).silences),
        "fast_url": probe_address(core.drills[step.rung - 1], shown.ladder.exercise),
        "working": _working(ladder),
    }


def _working(ladder: Ladder) -> tuple[Working, str, str] | None:
    """Return the tempo to work at that a probe has found, the rung nearest below it, and where that is played."""
    found = workings_of(ladder.player, [ladder.exercise_id]).get(ladder.exercise_id)
    if found is None or ladder.core.vary.what != "tempo":
        return None
    rung = max(sum(value is not None and value <= found.bpm for value in ladder.core.values), 1)
    return found, rung_word(ladder.core, rung), play_address(ladder, rung)


def _whole(ladder: Ladder) -> Ladder | None:
    """Return the ladder of the exercise that a ladder's exercise is a part of."""
    whole = ladder.exercise.whole_id
    return Ladder.objects.visible_to(ladder.player).filter(exercise=whole).first() if whole else None


def _started(request: PlayerRequest, ladder: CoreLadder, **fields: Any) -> HttpResponse:
    return redirect(actions.start_ladder(player=request.user, ladder=ladder, **fields))


def _visible(request: PlayerRequest) -> Any:
    return Ladder.objects.visible_to(request.user).select_related("exercise", "player")


def _own(request: PlayerRequest, ladder_id: UUID) -> Ladder:
    found: Ladder = get_object_or_404(_visible(request), pk=ladder_id)
    return found


def _back(request: PlayerRequest, otherwise: str) -> HttpResponse:
    """Return to the page that a form came from."""
    back = request.POST.get("back", "")
    is_ours = back.startswith("/") and url_has_allowed_host_and_scheme(back, allowed_hosts={request.get_host()})
    return redirect(back if is_ours else otherwise)
