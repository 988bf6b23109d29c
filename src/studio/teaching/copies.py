"""What a teacher gives away, a copy of a drill, ladder, block or piece of theirs; and what a pupil makes of it."""

from __future__ import annotations

from base64 import b64decode, b64encode
from typing import Any, NamedTuple

from giusto.drill import validate
from giusto.drill.identity import drill_key
from giusto.plan.routine import routine_of
from giusto.practice.ladder import ladder_of
from studio.accounts.models import Player
from studio.drills.actions import free_name as free_drill_name
from studio.drills.actions import keep_drill
from studio.drills.models import OwnDrill
from studio.ids import uuid_of
from studio.ladders.actions import free_name as free_ladder_name
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder, limits_of
from studio.pieces.actions import keep_piece
from studio.pieces.models import Piece
from studio.plans.actions import keep_routine
from studio.plans.models import Routine
from studio.teaching.models import Assignment

Kind = Assignment.Kind
PIECE_FIELDS = (
    "goal_bpm",
    "school",
    "click",
    "first_bar",
    "last_bar",
    "begins",
    "by_hands",
    "music",
    "beats",
    "grid",
    "score_name",
)
BLANK_ROUTINE = {"giusto": "routine/1", "days": ["mon", "wed", "fri"], "minutes": 30, "start": "18:00"}


class Copy(NamedTuple):
    """What is asked: its kind, its name, all of it, and by which key takes of a drill are known."""

    kind: str
    name: str
    spec: dict[str, Any]
    drill_key: str


class Offered(NamedTuple):
    """Something of a teacher's own that can be asked for: how a form names it, its name, its kind in words."""

    word: str
    name: str
    kind: str


def offered(teacher: Player) -> list[Offered]:
    """Return all of a teacher's own that can be asked for."""
    drills = OwnDrill.objects.visible_to(teacher).order_by("name").values_list("pk", "name")
    ladders = Ladder.objects.visible_to(teacher).filter(exercise__whole=None, exercise__stretch=None)
    pieces = Piece.objects.visible_to(teacher).kept().order_by("name").values_list("pk", "name")
    routine = Routine.objects.filter(player=teacher).first()
    blocks = [block.name for block in routine.core.blocks] if routine else []
    return [
        *(Offered(f"drill:{pk}", name, "Drills") for pk, name in drills),
        *(Offered(f"ladder:{pk}", name, "Ladders") for pk, name in ladders.order_by("name").values_list("pk", "name")),
        *(Offered(f"block:{name}", name, "Blocks of your routine") for name in blocks),
        *(Offered(f"piece:{pk}", name, "Pieces") for pk, name in pieces),
    ]


def copy_of(teacher: Player, what: str) -> Copy:
    """Return a copy of something of a teacher's own, by its word of ``offered``.

    Raises
    ------
    ObjectDoesNotExist, ValueError
        Where there is no such thing.
    """
    kind, _, name = what.partition(":")
    if kind == Kind.DRILL:
        own = OwnDrill.objects.visible_to(teacher).get(pk=uuid_of(name))
        return Copy(kind, own.name, {"drill": own.spec, "family": own.family}, own.drill_key)
    if kind == Kind.LADDER:
        ladder = Ladder.objects.visible_to(teacher).get(pk=uuid_of(name))
        return Copy(kind, ladder.name, {"ladder": ladder.spec, "limits": limits_of(ladder)}, "")
    if kind == Kind.PIECE:
        piece = Piece.objects.visible_to(teacher).kept().get(pk=uuid_of(name))
        spec = {field: getattr(piece, field) for field in PIECE_FIELDS}
        score = b64encode(bytes(piece.score)).decode("ascii") if piece.score else ""
        return Copy(kind, piece.name, {**spec, "score": score}, "")
    if kind == Kind.BLOCK:
        return _block(teacher, name)
    raise ValueError(f"there is no kind '{kind}'")


def keep_copy(player: Player, assignment: Assignment) -> None:
    """Make what was asked the player's own; ladder or piece are set on the assignment, which is not kept here.

    Raises
    ------
    KeepError, ClimbError, PieceError, GiustoError
        Where it can't be had.
    """
    spec, name = assignment.spec, assignment.name
    if assignment.kind == Kind.DRILL:
        _keep_drill(player, name, spec)
    elif assignment.kind == Kind.LADDER:
        assignment.ladder = _start(player, name, spec)
    elif assignment.kind == Kind.PIECE:
        fields = {field: spec[field] for field in PIECE_FIELDS}
        score = b64decode(spec["score"]) if spec.get("score") else None
        assignment.piece = keep_piece(player=player, name=name, score=score, **fields)
    else:
        _add_block(player, spec)


def _keep_drill(player: Player, name: str, spec: dict[str, Any]) -> None:
    """Keep a drill under its name, or a free one; one that is there is the player's already."""
    drill, there = validate(spec["drill"]), OwnDrill.objects.visible_to(player)
    if there.filter(drill_key=drill_key(drill), name__iexact=name).exists():
        return
    free = free_drill_name(player, name) if there.named(name).exists() else name
    keep_drill(player=player, drill=drill, name=free, family=spec["family"])


def _start(player: Player, name: str, spec: dict[str, Any]) -> Ladder:
    is_taken = Ladder.objects.visible_to(player).filter(name__iexact=name).exists()
    return start_ladder(
        player=player,
        ladder=ladder_of(spec["ladder"]),
        name=free_ladder_name(player, name) if is_taken else name,
        **spec.get("limits", {}),
    )


def _block(teacher: Player, name: str) -> Copy:
    """Return a block with its exercises, and the ladders that they name."""
    routine = Routine.objects.get(player=teacher)
    plain = routine.core.plain()
    block = next(one for one in plain["blocks"] if one["name"] == name)
    exercises = [one for one in plain.get("exercises", []) if one["block"] == name]
    called = {one.get("ladder") or one["name"] for one in exercises}
    ladders = {
        one.name: {"ladder": one.spec, "limits": limits_of(one)}
        for one in Ladder.objects.visible_to(teacher).filter(name__in=called, slug="")
    }
    return Copy(Kind.BLOCK, name, {"block": block, "exercises": exercises, "ladders": ladders}, "")


def _add_block(player: Player, spec: dict[str, Any]) -> None:
    """Add a block to a player's routine, with the ladders that it names and the player has not."""
    there = Routine.objects.filter(player=player).first()
    zone = player.time_zone or "UTC"
    plain: dict[str, Any] = (
        there.core.plain() if there else {**BLANK_ROUTINE, "zone": zone, "blocks": [], "exercises": []}
    )
    taken = {one["name"].casefold() for one in plain["blocks"]}
    name = spec["block"]["name"]
    while name.casefold() in taken:
        name = f"{name[:110]}, again"
    for called, one in spec["ladders"].items():
        if not Ladder.objects.visible_to(player).filter(name__iexact=called).exists():
            _start(player, called, one)
    plain["blocks"] = [*plain["blocks"], {**spec["block"], "name": name}]
    plain["exercises"] = [*plain.get("exercises", []), *({**one, "block": name} for one in spec["exercises"])]
    plain["minutes"] = max(plain["minutes"], sum(one["minutes"][0] for one in plain["blocks"]))
    keep_routine(player=player, routine=routine_of(plain))
