"""Exercises and pieces as lines, each under the day on which the plan next asks for it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from django.utils import timezone

from studio.accounts.models import Player
from studio.ladders.models import Ladder
from studio.ladders.parts import Climbs, climbs_of, following
from studio.ladders.standing import LadderStanding
from studio.ladders.words import asked, rung_word
from studio.pieces.models import Piece
from studio.pieces.standing import PieceStanding, piece_standings
from studio.pieces.words import next_in
from studio.plans.ahead import slots_ahead
from studio.plans.entries import named_now
from studio.plans.models import Routine
from studio.plans.today import Today, today_of
from studio.words import number

AHEAD_DAYS = 14  # ours: what comes later than that rests
THREAD = 38  # px: from the first step to the goal


@dataclass(frozen=True, slots=True)
class WorkLine:
    """An exercise or a piece: what it is, where it stands, and how far it hangs, as a share of its way to the goal."""

    name: str
    kind: str
    stands: str
    page: str
    url: str
    hung: float | None
    is_done: bool = False

    @property
    def bob_y(self) -> float:
        """Where its thread ends, in px."""
        return round(4 + THREAD * (self.hung or 0.0), 1)

    @property
    def ring_y(self) -> int:
        """Where its goal hangs, in px."""
        return 4 + THREAD


@dataclass(frozen=True, slots=True)
class WorkGroup:
    """The lines of one day, or of none."""

    name: str
    lines: list[WorkLine]


@dataclass(frozen=True, slots=True)
class Work:
    """All that a player is working on."""

    groups: list[WorkGroup]
    today: Today | None
    next_url: str
    next_name: str

    @property
    def heading(self) -> str:
        """How many are due, in words."""
        if self.today is None:
            count = sum(len(group.lines) for group in self.groups)
            return f"{number(count).capitalize()} to work on." if count else "Nothing to work on yet."
        many = "One is" if self.due == 1 else f"{number(self.due).capitalize()} are"
        return f"{many} due today."

    @property
    def due(self) -> int:
        """How many are due today."""
        return sum(len(group.lines) for group in self.groups if group.name == "Today")


def work_of(player: Player, now: datetime, asked_for: str = "") -> Work:
    """Return a player's exercises and pieces by when they are due, or those of them whose name holds some words."""
    today = today_of(player, now)
    climbs = today.climbs if today else climbs_of(player, now)
    pieces = Piece.objects.visible_to(player).kept().select_related("player").defer("score")
    standings = piece_standings(pieces, now, climbs)
    lines = dict(_lines(climbs, standings))
    dated = list(_dated(player, today, timezone.localtime(now).date()))
    order: dict[str, list[WorkLine]] = {"Today": [], "Tomorrow": [], "Later": []}
    for name, key, drill in dated:
        line = lines.pop(key, None) if key else drill
        if line:
            order[name].append(line)
    rest = list(lines.values())
    order["Resting" if dated else ""] = [
        *(one for one in rest if not one.is_done),
        *(one for one in rest if one.is_done),
    ]
    groups = [
        WorkGroup(name, [one for one in some if asked_for.casefold() in one.name.casefold()])
        for name, some in order.items()
    ]
    first = next((one for group in groups for one in group.lines if one.url and not one.is_done), None)
    item = today.next.item if today and today.next and today.next.item.url else None
    return Work(
        [group for group in groups if group.lines],
        today,
        item.url if item else first.url if first else "",
        item.name if item else first.name if first else "",
    )


def _lines(climbs: Climbs, pieces: Iterable[PieceStanding]) -> Iterator[tuple[object, WorkLine]]:
    """Yield each piece and each ladder that is no piece's, by what an entry of a plan stands for."""
    of_pieces: set[int] = set()
    for standing in pieces:
        of_pieces |= {pk for one in standing.stretches for pk in one.exercises}
        yield standing.piece.pk, _piece_line(standing)
    for pk, one in climbs.by_exercise.items():
        if pk not in of_pieces and one.ladder.exercise.whole_id is None:
            yield pk, _ladder_line(one, climbs.parts.get(pk, []))


def _ladder_line(whole: LadderStanding, parts: list[LadderStanding]) -> WorkLine:
    one = (following(parts) if parts else None) or whole
    core, step, ladder = one.ladder.core, one.step, whole.ladder
    last, part = len(core.values), one.ladder.exercise.part_name
    goal = "" if step.done else f", goal {rung_word(core, last)}"
    return WorkLine(
        name=ladder.name,
        kind=f"{len(parts)} parts" if parts else "",
        stands=f"{asked(core, step)}{f', {part}' if part else ''}{goal}",
        page=ladder.get_absolute_url(),
        url=one.url,
        hung=step.secure / last if last else None,
        is_done=step.done and not parts,
    )


def _piece_line(standing: PieceStanding) -> WorkLine:
    piece, next_ = standing.piece, next_in(standing)
    count = len(standing.stretches)
    return WorkLine(
        name=piece.name,
        kind=f"piece, {piece.last_bar - piece.first_bar + 1} bars",
        stands=f"{next_.what}, goal {piece.goal_bpm:g}" if next_ else f"held at {piece.goal_bpm:g}",
        page=piece.get_absolute_url(),
        url=next_.url if next_ and next_.url else piece.get_absolute_url(),
        hung=standing.at_goal / count if count else None,
        is_done=next_ is None,
    )


def _dated(player: Player, today: Today | None, day: date) -> Iterator[tuple[str, object, WorkLine | None]]:
    """Yield what the plan asks for, once each: the day's group, what it is, and a line for what is no ladder."""
    seen: set[object] = set()
    for line in today.lines if today else ():
        item = line.item
        drill = WorkLine(item.head, "", item.what.rstrip("."), item.page, item.url, None) if item.url else None
        yield "Today", item.target, drill
        seen.add(item.target or item.head)
    routine = Routine.objects.filter(player=player).first()
    if routine is None:
        return
    named = named_now(routine)
    for slot in slots_ahead(player, named, day, day + timedelta(days=AHEAD_DAYS)):
        entry = named.entry(slot.block, slot.exercise)
        if slot.date <= day or entry is None:
            continue
        key = entry.exercise_id or entry.piece_id
        if (key or slot.exercise) in seen:
            continue
        seen.add(key or slot.exercise)
        yield "Tomorrow" if slot.date == day + timedelta(days=1) else "Later", key, None


def taken_down(player: Player) -> dict[str, Any]:
    """Return the ladders that were taken down and the pieces that were put away, newest first."""
    away = Piece.objects.of(player).exclude(deleted_at=None).order_by("-deleted_at").defer("score", "music")
    return {"down": Ladder.objects.taken_down(player)[:20], "away": away[:20]}
