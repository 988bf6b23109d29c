"""Where the stretches of a piece stand, and what comes next."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from django.utils import timezone

from giusto.plan.piece import ORDER, Asked, next_of
from giusto.plan.piece import Stretch as CoreStretch
from giusto.plan.piece import StretchState as StretchState
from studio.ladders.attempts import Tried
from studio.ladders.parts import Climbs, climbs_of, following
from studio.ladders.standing import LadderStanding
from studio.pieces.models import Piece, Stretch
from studio.pieces.music import ratio_of

MOST_A_DAY = 4  # ours: takes of one stretch in a row, before another has its turn


@dataclass(frozen=True, slots=True)
class StretchStanding:
    """A stretch and where it stands.

    Attributes
    ----------
    stretch : Stretch
    core : StretchState
    climb : LadderStanding or None
        Its own ladder's, or that of the hand whose turn it is; None where it was not begun with the click.
    takes : int
    exercises : frozenset of int
        Its own, and that of each hand.
    """

    stretch: Stretch
    core: StretchState
    climb: LadderStanding | None
    takes: int
    exercises: frozenset[int]

    @property
    def secure_bpm(self) -> float | None:
        """The highest tempo of the piece that is secure, both hands where it has two."""
        return self.core.secure_bpm


@dataclass(frozen=True, slots=True)
class PieceStanding:
    """A piece: its stretches in the order in which they are begun, and what is asked next."""

    piece: Piece
    stretches: list[StretchStanding]
    asked: Asked | None

    @property
    def next(self) -> StretchStanding | None:
        """The stretch that comes next."""
        return self.stretches[self.asked.index] if self.asked else None

    @property
    def at_goal(self) -> int:
        """How many stretches are secure at the goal."""
        return sum(one.core.is_done for one in self.stretches)


def piece_standings(pieces: Iterable[Piece], now: datetime, climbs: Climbs | None = None) -> list[PieceStanding]:
    """Return where pieces of one player stand, in a bounded number of queries; by climbs that are known already."""
    some = list(pieces)
    if not some:
        return []
    player = some[0].player
    stretches = list(Stretch.objects.filter(piece__in=some).select_related("exercise"))
    if climbs is None:
        climbs = climbs_of(player, now, (one.exercise_id for one in stretches if one.exercise_id))
    return [_piece(piece, [one for one in stretches if one.piece_id == piece.pk], climbs, now) for piece in some]


def piece_standing(piece: Piece, now: datetime) -> PieceStanding:
    """Return where a piece stands."""
    return piece_standings([piece], now)[0]


def _piece(
    piece: Piece,
    stretches: list[Stretch],
    climbs: Climbs,
    now: datetime,
) -> PieceStanding:
    ordered = sorted(stretches, key=lambda one: (ORDER.index(one.kind), one.last_bar - one.first_bar, one.first_bar))
    today = timezone.localtime(now).date()
    found = [_standing(piece, one, climbs, today) for one in ordered]
    asked = next_of([one.core for one in found], school=piece.school, goal_bpm=piece.goal_bpm, today=today)
    return PieceStanding(piece, found, asked)


def _standing(piece: Piece, stretch: Stretch, climbs: Climbs, today: date) -> StretchStanding:
    number = stretch.exercise_id or 0
    climb, parts = climbs.by_exercise.get(number), climbs.parts.get(number, [])
    both = next((one for one in parts if one.ladder.exercise.hand == "together"), climb)
    secure = _secure(both, piece)
    tried = [one for some in (parts or ([climb] if climb else [])) for one in some.tried]
    core = StretchState(
        stretch=CoreStretch(stretch.first_bar, stretch.last_bar, stretch.kind),  # type: ignore[arg-type]
        is_learned=stretch.learned_at is not None,
        secure_bpm=secure,
        is_done=both is not None and both.step.done,
        played=max((one.at.date() for one in tried), default=None),
        is_under_way=both is not None and _is_under_way(both, tried, today),
    )
    exercises = frozenset(one.ladder.exercise_id for one in (*parts, *([climb] if climb else [])))
    return StretchStanding(stretch, core, (following(parts) if parts else None) or climb, len(tried), exercises)


def _is_under_way(climb: LadderStanding, tried: list[Tried], today: date) -> bool:
    """Whether a stretch was begun today, a few takes ago at most, and nothing new of it is secure yet."""
    count = sum(one.at.date() == today for one in tried)
    if not 0 < count < MOST_A_DAY:
        return False
    return climb.step.secure <= climb.past.state.secure


def _secure(climb: LadderStanding | None, piece: Piece) -> float | None:
    """Return the secure tempo in beats of the piece."""
    if climb is None or not climb.step.secure:
        return None
    drill = climb.ladder.core.drills[climb.step.secure - 1]
    return round(drill.tempo.bpm / ratio_of(piece, drill), 3)


def stretch_of(standing: PieceStanding, pk: int | UUID) -> StretchStanding | None:
    """Return one stretch's standing."""
    return next((one for one in standing.stretches if one.stretch.pk == pk), None)
