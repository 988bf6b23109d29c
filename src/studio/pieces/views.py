"""Pages: all pieces, a new one from its score, one piece down the page, one of its stretches."""

from __future__ import annotations

import re
from copy import copy
from typing import Any
from uuid import UUID

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from giusto.errors import GiustoError
from giusto.missing import Missing
from giusto.schedule import schedule
from studio.accounts.requests import PlayerRequest
from studio.ids import uuid_of
from studio.ladders.actions import ClimbError
from studio.ladders.standing import play_address
from studio.ladders.words import asked
from studio.pieces import actions
from studio.pieces.forms import FoundForm, MarkForm, NewPieceForm, SpotForm, WorkForm
from studio.pieces.leaning import leans
from studio.pieces.models import Mark, Piece, Stretch
from studio.pieces.music import passage_of
from studio.pieces.notation import notation
from studio.pieces.picture import PHONE, WIDE, draw_piece
from studio.pieces.scores import MAKER
from studio.pieces.standing import piece_standing, stretch_of
from studio.pieces.tasks import engrave_soon
from studio.pieces.words import next_in
from studio.scores.actions import take_in
from studio.sheet.picture import draw_small
from studio.takes.ceilings import probe_address
from studio.takes.rushing import leaning_words
from studio.words import times

KNOWN = re.compile(r"[0-9]{1,18}(-[0-9]{1,18}){0,200}")  # passages that were called known just now
AROUND = re.compile(r"([0-9]{1,4})-([0-9]{1,4})")


@require_http_methods(["GET", "HEAD", "POST"])
def new(request: PlayerRequest) -> HttpResponse:
    """Take in a new piece, to be looked at before it is kept."""
    form = NewPieceForm(request.POST or None, request.FILES or None)
    if form.is_bound and form.is_valid():
        words = form.cleaned_data
        if file := words.get("file"):
            asked = {"part": words["part"], "name": words["name"]}
            here = reverse("pieces:new")
            return redirect(take_in(player=request.user, file=file, words=asked, maker=MAKER, back=here))
        try:
            return redirect(actions.keep_piece(player=request.user, **form.fields_of_piece()))
        except (actions.PieceError, GiustoError) as error:
            form.add_error(None, str(error))
    return render(request, "pieces/new.html", {"form": form}, status=422 if form.errors else 200)


@require_http_methods(["GET", "HEAD", "POST"])
def piece(request: PlayerRequest, piece_id: UUID) -> HttpResponse:
    """Show a piece: what comes next, its bars and stretches; how it is worked on can be changed."""
    one = _own(request, piece_id)
    form = WorkForm(request.POST or None, instance=copy(one))
    if form.is_bound and form.is_valid():
        try:
            actions.change_piece(player=request.user, piece=one, **form.changed(), is_draft=False)
        except GiustoError as error:
            form.add_error(None, f"{str(error)[0].upper()}{str(error)[1:]}.")
        else:
            return redirect(one)
    return render(request, "pieces/piece.html", _shown(request, one, form), status=422 if form.errors else 200)


@require_safe
def stretch(request: PlayerRequest, piece_id: UUID, stretch_id: int) -> HttpResponse:
    """Show some bars of a piece: their notes, where they stand, where they lean."""
    one = _own(request, piece_id)
    here = get_object_or_404(one.stretches.select_related("exercise", "piece"), pk=stretch_id)
    is_engraving = bool(one.score_name) and here.engraved is None
    if is_engraving:
        engrave_soon(here)
        if request.htmx:
            return HttpResponse(status=204)  # the page asks again
    lean = leans(one, here)
    sure = [] if isinstance(lean, Missing) else lean
    context: dict[str, Any] = {
        "piece": one,
        "stretch": here,
        "is_engraving": is_engraving,
        "engraved": [(width, notation(one, here, sure, width)) for width in ("svg", "narrow")],
        "lean": leaning_words(lean),
    }
    if request.htmx:
        return render(request, "pieces/_notation.html", context)
    context["standing"] = stretch_of(piece_standing(one, timezone.now()), here.pk)
    try:
        passage = passage_of(one, here)
        context |= {
            "small": draw_small(schedule(passage.drill)),
            "drill": passage.drill,
            "rounds": times(passage.rounds),
        }
        context["fast_url"] = probe_address(passage.drill, here.exercise) if here.exercise else ""
    except GiustoError as error:
        context["refusal"] = str(error)
    climb = context["standing"].climb
    if climb and not context.get("refusal"):
        core = climb.ladder.core
        context["play_url"] = play_address(climb.ladder, climb.step.rung)
        context["play_asked"] = asked(core, climb.step)
    return render(request, "pieces/stretch.html", context)


@require_POST
def climb(request: PlayerRequest, piece_id: UUID, stretch_id: int) -> HttpResponse:
    """Begin a stretch with the click, or go on with it: its ladder."""
    one = _own(request, piece_id)
    here = get_object_or_404(one.stretches.select_related("exercise", "piece__player"), pk=stretch_id)
    try:
        standings = piece_standing(one, timezone.now()).stretches
        return redirect(actions.climb_stretch(player=request.user, stretch=here, standings=standings))
    except (GiustoError, ClimbError) as error:
        messages.error(request, f"These bars can’t be played with the click: {error}.")
        return redirect(here)


@require_POST
def known(request: PlayerRequest, piece_id: UUID) -> HttpResponse:
    """Keep the player's word that they know the whole piece, or take it back."""
    one = _own(request, piece_id)
    if stretches := re.findall(r"[0-9]{1,18}", request.POST.get("not", "")):
        actions.forget_known(player=request.user, piece=one, stretches=[int(pk) for pk in stretches])
        return redirect(one)
    marked = actions.know_piece(player=request.user, piece=one)
    return redirect(f"{one.get_absolute_url()}?known={'-'.join(str(pk) for pk in marked)}")


@require_POST
def learned(request: PlayerRequest, piece_id: UUID, stretch_id: int) -> HttpResponse:
    """Keep the player's word that the notes are in the hands, or take it back."""
    here = get_object_or_404(Stretch, piece=_own(request, piece_id), pk=stretch_id)
    actions.say_learned(player=request.user, stretch=here, is_learned=request.POST.get("learned") == "1")
    return redirect(here if "stay" in request.POST else here.piece)


@require_POST
def found(request: PlayerRequest, piece_id: UUID) -> HttpResponse:
    """Keep a tempo that was tapped or typed: at which a piece goes now, or its goal."""
    one, form = _own(request, piece_id), FoundForm(request.POST)
    if form.is_valid():
        name = "goal_bpm" if request.POST.get("as") == "goal" else "found_bpm"
        try:
            actions.change_piece(player=request.user, piece=one, **{name: form.cleaned_data["bpm"]})
        except GiustoError as error:
            messages.error(request, f"{str(error)[0].upper()}{str(error)[1:]}.")
    else:
        messages.error(request, " ".join(str(error) for error in form.errors["bpm"]))
    return redirect(one)


@require_POST
def spot(request: PlayerRequest, piece_id: UUID) -> HttpResponse:
    """Make an exercise of some bars."""
    one, form = _own(request, piece_id), SpotForm(request.POST)
    if not form.is_valid():
        messages.error(request, "Two numbers of bars, please.")
        return redirect(one)
    try:
        return redirect(actions.add_spot(player=request.user, piece=one, **form.cleaned_data))
    except actions.PieceError as error:
        messages.error(request, str(error))
        return redirect(one)


@require_POST
def mark(request: PlayerRequest, piece_id: UUID) -> HttpResponse:
    """Mark a place by hand."""
    one, form = _own(request, piece_id), MarkForm(request.POST)
    if form.is_valid():
        try:
            actions.mark_place(player=request.user, piece=one, **form.cleaned_data)
        except actions.PieceError as error:
            messages.error(request, str(error))
    else:
        said = (f"{form[name].label}: {error}" for name, errors in form.errors.items() for error in errors)
        messages.error(request, " ".join(said))
    return redirect(f"{one.get_absolute_url()}#marks")


@require_POST
def rub_out(request: PlayerRequest, piece_id: UUID, mark_id: int) -> HttpResponse:
    """Take a mark away."""
    one = get_object_or_404(Mark, piece=_own(request, piece_id), pk=mark_id)
    actions.rub_out(player=request.user, mark=one)
    return redirect(f"{one.piece.get_absolute_url()}#marks")


@require_POST
def put_away(request: PlayerRequest, piece_id: UUID) -> HttpResponse:
    """Put a piece away; a draft is forgotten."""
    actions.put_away(player=request.user, piece=_own(request, piece_id))
    return redirect("work:page")


@require_POST
def bring_back(request: PlayerRequest, piece_id: UUID) -> HttpResponse:
    """Bring a piece back."""
    one = get_object_or_404(Piece.objects.of(request.user), pk=piece_id)
    actions.bring_back(player=request.user, piece=one)
    return redirect(one)


@require_safe
def score(request: PlayerRequest, piece_id: UUID) -> HttpResponse:
    """Send the score as it came."""
    one = get_object_or_404(Piece.objects.visible_to(request.user).exclude(score=None), pk=piece_id)
    name = re.sub(r"[^\w. -]", "", one.score_name) or "score"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(bytes(one.score or b""), content_type="application/octet-stream", headers=headers)


def _shown(request: PlayerRequest, one: Piece, form: WorkForm) -> dict[str, Any]:
    standing = piece_standing(one, timezone.now())
    lean, marks = leans(one), list(one.marks.all())
    around = AROUND.fullmatch(request.GET.get("around", ""))
    return {
        "piece": one,
        "form": form,
        "standing": standing,
        "next": next_in(standing),
        "pictures": [draw_piece(standing, lean, marks, columns) for columns in (WIDE, PHONE)],
        "lean": leaning_words(lean),
        "marks": marks,
        "sorts": Mark.Sort.choices,
        "unknown": not one.is_draft and any(not each.core.is_learned for each in standing.stretches),
        "just_known": request.GET.get("known", "") if KNOWN.fullmatch(request.GET.get("known", "")) else "",
        "around": (around[1], around[2]) if around else ("", ""),
        "summary": f"{len(standing.stretches)} stretches, {standing.at_goal} at the goal.",
    }


def _own(request: PlayerRequest, piece_id: UUID) -> Piece:
    pieces = Piece.objects.visible_to(request.user).select_related("player").defer("score")
    found: Piece = get_object_or_404(pieces, pk=uuid_of(piece_id))
    return found
