"""All that changes a player's pieces: each an action, whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.utils import timezone

from giusto.plan.piece import Stretch as CoreStretch
from giusto.plan.piece import start_bpm, stretches
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.exercises.models import Exercise
from studio.ladders.actions import refuse_too_many, start_ladder
from studio.ladders.models import Ladder
from studio.ladders.parts import HANDS
from studio.pieces.models import Mark, Piece, Stretch
from studio.pieces.music import STEP_BPM, ladder_for, passage_of, plays, spread_limit
from studio.pieces.policies import may_change, may_keep
from studio.pieces.standing import StretchStanding

MAX_PIECES, MAX_MARKS = 200, 500  # ours


class PieceError(ValueError):
    """A piece can't be had as it was asked; the text is for its player."""


@transaction.atomic
def keep_piece(*, player: Player, is_draft: bool = False, **fields: Any) -> Piece:
    """Keep a new piece with its stretches; a draft takes the place of the one before.

    Raises
    ------
    PieceError
        Where the player has too many.
    GiustoError
        Where its bars make no stretches.
    """
    require(may_keep(player))
    Piece.objects.of(player).filter(is_draft=True).delete()
    if Piece.objects.visible_to(player).count() >= MAX_PIECES:
        raise PieceError(f"There are {MAX_PIECES} pieces, allowed are no more. Put one away first.")
    piece = Piece.objects.create(player=player, is_draft=is_draft, **fields)
    lay_out(piece)
    return piece


@transaction.atomic
def change_piece(*, player: Player, piece: Piece, **fields: Any) -> Piece:
    """Change a piece; stretches on which something was done stay, as spots where their bars are no chunk any more.

    Raises
    ------
    GiustoError
        Where its bars make no stretches.
    """
    require(may_change(player, piece))
    for name, value in fields.items():
        setattr(piece, name, value)
    piece.save(update_fields=list(fields))
    lay_out(piece)
    for stretch in piece.stretches.exclude(exercise=None).select_related("exercise"):
        _retarget(piece, stretch)
    return piece


def _retarget(piece: Piece, stretch: Stretch) -> None:
    """Bring the ladders of a stretch to its piece's goal and click; where they begin stays."""
    if stretch.exercise is None:
        return
    for exercise in (stretch.exercise, *stretch.exercise.parts.all()):
        ladder = Ladder.objects.visible_to(piece.player).filter(exercise=exercise).first()
        if ladder is None:
            continue
        passage = passage_of(piece, stretch, exercise.hand)
        begins = float(ladder.spec["vary"].get("from", 0.0)) / passage.ratio
        made = ladder_for(piece, passage, begins).plain()
        ladder.spec = {**ladder.spec, "drill": made["drill"], "vary": made["vary"]}
        ladder.save(update_fields=["spec", "changed_at"])


def lay_out(piece: Piece) -> None:
    """Give a piece the stretches that its chunks make."""
    wanted = stretches(piece.begins, piece.last_bar)
    keys = {(one.first, one.last, one.kind) for one in wanted}
    spots = set(piece.stretches.filter(kind=Stretch.Kind.SPOT).values_list("first_bar", "last_bar"))
    for there in piece.stretches.exclude(kind=Stretch.Kind.SPOT):
        if (there.first_bar, there.last_bar, there.kind) in keys:
            continue
        if there.exercise_id is None and there.learned_at is None:
            there.delete()
        elif (there.first_bar, there.last_bar) in spots:
            there.delete()  # the spot of the same bars goes on; what was played stays with its exercise
        else:
            there.kind = Stretch.Kind.SPOT
            there.save(update_fields=["kind"])
    for one in wanted:
        piece.stretches.get_or_create(first_bar=one.first, last_bar=one.last, kind=one.kind)


@transaction.atomic
def put_away(*, player: Player, piece: Piece) -> None:
    """Put a piece away; its takes stay, and it can be brought back. A draft is forgotten."""
    require(may_change(player, piece))
    if piece.is_draft:
        piece.delete()
        return
    piece.deleted_at = timezone.now()
    piece.save(update_fields=["deleted_at"])


@transaction.atomic
def bring_back(*, player: Player, piece: Piece) -> None:
    """Undo that a piece was put away."""
    require(may_change(player, piece))
    piece.deleted_at = None
    piece.save(update_fields=["deleted_at"])


@transaction.atomic
def add_spot(*, player: Player, piece: Piece, first: int, last: int) -> Stretch:
    """Make an exercise of some bars, such as those around a place that leans.

    Raises
    ------
    PieceError
        Where the piece has no such bars.
    """
    require(may_change(player, piece))
    if not piece.first_bar <= first <= last <= piece.last_bar:
        raise PieceError(
            f"Bars {first} to {last} are not there, allowed are {piece.first_bar} to {piece.last_bar}, ascending."
        )
    there = piece.stretches.filter(first_bar=first, last_bar=last).first()
    return there or Stretch.objects.create(piece=piece, first_bar=first, last_bar=last, kind=Stretch.Kind.SPOT)


@transaction.atomic
def say_learned(*, player: Player, stretch: Stretch, is_learned: bool) -> None:
    """Keep the player's word that the notes are in the hands, or take it back."""
    require(may_change(player, stretch.piece))
    stretch.learned_at = timezone.now() if is_learned else None
    stretch.save(update_fields=["learned_at"])


@transaction.atomic
def know_piece(*, player: Player, piece: Piece) -> list[int]:
    """Keep the player's word that all notes of a piece are in the hands; return the passages of which it is new."""
    require(may_change(player, piece))
    new = list(piece.stretches.filter(learned_at=None).values_list("pk", flat=True))
    piece.stretches.filter(pk__in=new).update(learned_at=timezone.now())
    return new


@transaction.atomic
def forget_known(*, player: Player, piece: Piece, stretches: Sequence[int]) -> None:
    """Take back the player's word on some passages of a piece."""
    require(may_change(player, piece))
    piece.stretches.filter(pk__in=stretches).update(learned_at=None)


@transaction.atomic
def climb_stretch(*, player: Player, stretch: Stretch, standings: Sequence[StretchStanding]) -> Ladder:
    """Return the ladder of a stretch, begun where it has none: from a good bit below up to the goal.

    Raises
    ------
    GiustoError
        Where its bars can't be a drill.
    ClimbError
        Where the player has too many ladders.
    """
    piece = stretch.piece
    require(may_change(player, piece))
    if stretch.exercise_id:
        there = Ladder.objects.visible_to(player).filter(exercise=stretch.exercise_id).first()
        if there:
            return there
    core = CoreStretch(stretch.first_bar, stretch.last_bar, stretch.kind)  # type: ignore[arg-type]
    found = piece.found_bpm or piece.goal_bpm
    start = start_bpm([one.core for one in standings], core, found_bpm=found, step_bpm=STEP_BPM)
    whole = ladder_for(piece, passage_of(piece, stretch), start)
    ladder = start_ladder(player=player, ladder=whole, spread_percent=spread_limit(whole))
    if piece.by_hands and piece.has_hands:
        _by_hands(player, piece, stretch, ladder, start)
    stretch.exercise = ladder.exercise
    stretch.save(update_fields=["exercise"])
    return ladder


def _by_hands(player: Player, piece: Piece, stretch: Stretch, whole: Ladder, start: float) -> None:
    """Give a stretch a part for each hand, with that hand's own notes, and one for both; none where a hand rests."""
    playing = [hand for hand in HANDS if plays(piece, stretch, hand)]
    if len(playing) < len(HANDS):
        return  # one hand rests throughout: the whole is the other's part
    refuse_too_many(player, len(HANDS))
    for hand in HANDS:
        ladder = ladder_for(piece, passage_of(piece, stretch, hand), start)
        part = Exercise(player=player, climbs=True, whole=whole.exercise, hand=hand)
        part.name = f"{whole.name[:100]}, {part.part_name}"
        part.save()
        limit = spread_limit(ladder)
        Ladder.objects.create(player=player, exercise=part, name=part.name, spec=ladder.plain(), spread_percent=limit)


@transaction.atomic
def mark_place(*, player: Player, piece: Piece, bar: int, beat: int, sort: str, note: str) -> Mark:
    """Mark a place by hand, as with a pencil; one that is marked is marked anew.

    Raises
    ------
    PieceError
        Where the piece has no such bar, or too many marks.
    """
    require(may_change(player, piece))
    if not piece.first_bar <= bar <= piece.last_bar:
        raise PieceError(f"Bar {bar} is not there, allowed are {piece.first_bar} to {piece.last_bar}.")
    if piece.marks.count() >= MAX_MARKS:
        raise PieceError(f"There are {MAX_MARKS} marks, allowed are no more.")
    words = {"sort": sort, "note": note}
    return Mark.objects.update_or_create(piece=piece, bar=bar, beat=beat, defaults=words)[0]


@transaction.atomic
def rub_out(*, player: Player, mark: Mark) -> None:
    """Take a mark away."""
    require(may_change(player, mark.piece))
    mark.delete()
