"""Split exercises: their parts, each with its ladder; what each holds, and which comes next."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from itertools import groupby, product

from django.db import transaction
from django.db.models import Q

from giusto.plan.parts import ExercisePart, next_part, spelled
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.exercises.models import Exercise
from studio.ladders.actions import ClimbError, refuse_too_many
from studio.ladders.models import Ladder, limits_of
from studio.ladders.policies import may_change
from studio.ladders.standing import LadderStanding, standings
from studio.ladders.words import asked, day_word, value_word

HANDS = ("left", "right", "together")


@dataclass(frozen=True, slots=True)
class PartLine:
    """A part in its exercise's record: what was reached, what is secure, what it asks."""

    standing: LadderStanding
    name: str
    reached: str
    secure: str
    asks: str
    takes: int
    last: str


@dataclass(frozen=True, slots=True)
class Record:
    """A split exercise: its parts by key, and the one that comes next."""

    groups: list[tuple[str, list[PartLine]]]
    following: PartLine | None
    parts: int
    done: int


@transaction.atomic
def split(*, player: Player, ladder: Ladder, hands: bool, keys: Sequence[str], sections: Sequence[str]) -> int:
    """Split the exercise of a ladder; each part begins a ladder like it. Parts that are there stay as they are.

    Returns
    -------
    int
        How many parts are new.

    Raises
    ------
    ClimbError
        Where it is a part itself, or the player has too many ladders.
    """
    require(may_change(player, ladder))
    whole = ladder.exercise
    if whole.whole_id:
        raise ClimbError(f"“{ladder.name}” is a part itself. Split the whole of it.")
    there = set(whole.parts.values_list("hand", "music_key", "section"))
    wanted = product(keys or [""], sections or [""], HANDS if hands else [""])
    new = [(hand, key, section) for key, section, hand in wanted if (hand, key, section) not in there]
    refuse_too_many(player, len(new))
    for hand, key, section in new:
        part = Exercise(player=player, climbs=True, whole=whole, hand=hand, music_key=key, section=section)
        part.name = f"{ladder.name[: 116 - len(part.part_name)]}, {part.part_name}"
        part.save()
        Ladder.objects.create(player=player, exercise=part, name=part.name, spec=ladder.spec, **limits_of(ladder))
    return len(new)


@dataclass(frozen=True, slots=True)
class Climbs:
    """Where ladders stand, by their exercise; those of parts also by the exercise that they are parts of."""

    by_exercise: dict[int, LadderStanding]
    parts: dict[int, list[LadderStanding]]


def climbs_of(player: Player, now: datetime, exercises: Iterable[int] | None = None) -> Climbs:
    """Return where the ladders of some exercises and of their parts stand, or all of a player's; a few queries."""
    ladders = Ladder.objects.visible_to(player)
    if exercises is not None:
        some = list(exercises)
        ladders = ladders.filter(Q(exercise__in=some) | Q(exercise__whole__in=some))
    found = standings(ladders.select_related("exercise", "player").order_by("exercise__whole", "created_at"), now)
    by_whole = groupby(found, key=lambda standing: standing.ladder.exercise.whole_id)
    parts = {whole: list(ones) for whole, ones in by_whole if whole is not None}
    return Climbs({one.ladder.exercise_id: one for one in found}, parts)


def parts_of(player: Player, wholes: Iterable[int], now: datetime) -> dict[int, list[LadderStanding]]:
    """Return where the parts of some exercises stand, by exercise, in the order in which they were made."""
    return climbs_of(player, now, wholes).parts


def in_key(parts: Sequence[LadderStanding], key: str) -> list[LadderStanding]:
    """Return the parts in a key, however it is written; all of them where none is asked for."""
    wanted = key and spelled(key, [one.ladder.exercise.music_key for one in parts])
    return [one for one in parts if not wanted or one.ladder.exercise.music_key == wanted]


def following(parts: Sequence[LadderStanding]) -> LadderStanding | None:
    """Return the part that comes next; None where all are climbed."""
    index = next_part([_part(one) for one in parts])
    return None if index is None else parts[index]


def record(parts: Sequence[LadderStanding], today: date) -> Record:
    """Return a split exercise's record: tempo reached and secure of each part. Keys are never compared."""
    shown = [_line(one, today) for one in parts]
    first = following(parts)
    groups = groupby(shown, key=lambda line: line.standing.ladder.exercise.music_key)
    return Record(
        groups=[(key, list(lines)) for key, lines in groups],
        following=next((line for line in shown if line.standing is first), None),
        parts=len(shown),
        done=sum(one.step.done for one in parts),
    )


def _line(one: LadderStanding, today: date) -> PartLine:
    core, step, exercise = one.ladder.core, one.step, one.ladder.exercise
    clean = [tried.rung for tried in one.tried if tried.clean]
    return PartLine(
        standing=one,
        name=", ".join(filter(None, (exercise.get_hand_display() if exercise.hand else "", exercise.section))),
        reached=value_word(core, max(clean)) if clean else "",
        secure=value_word(core, step.secure) if step.secure else "",
        asks=asked(core, step),
        takes=len(one.tried),
        last=day_word(one.tried[-1].at.date(), today) if one.tried else "",
    )


def _part(one: LadderStanding) -> ExercisePart:
    exercise = one.ladder.exercise
    return ExercisePart(
        hand=exercise.hand,
        key=exercise.music_key,
        section=exercise.section,
        rung=one.step.rung,
        secure=one.step.secure,
        is_done=one.step.done,
        played=one.tried[-1].at.date() if one.tried else None,
    )
