"""Her plan: a piece from its score, an exercise through twelve keys, a routine and a week's goal."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.utils import timezone

from giusto.drill.passage import read_score
from giusto.plan.routine import routine_of
from giusto.practice.ladder import ladder_of
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from studio.accounts.models import Player
from studio.demo.playing import DemoTake, play
from studio.exercises.actions import describe_exercise
from studio.ladders.actions import change_ladder, start_ladder
from studio.ladders.models import Ladder
from studio.ladders.part_forms import TWELVE
from studio.ladders.parts import following, parts_of, split
from studio.ladders.standing import standings
from studio.pieces.actions import change_piece, climb_stretch, keep_piece, mark_place, say_learned
from studio.pieces.models import Piece
from studio.pieces.music import kept_music
from studio.pieces.standing import piece_standing
from studio.plans.actions import choose_week, keep_routine
from studio.takes.models import Take

SCORE = Path(__file__).with_name("lanterns_for_odo.musicxml")
FIRST_SEED = 8001
DAYS = 14  # of the piece and the keys, up to the last evening
FREE = (2, 6)  # days of the week without practice, from Monday
HURRIED_BARS = (11, 15)  # she hurries their second halves, and does not know of the second
OSTINATO = "Scale in eighths"
CLEARER = timedelta(minutes=2, seconds=30)
RULE = {"kind": "streak", "clean": 2}  # her choice for the piece, and no step back on a new day
GOALS = "Lanterns: the joins up to 92. Softer left hand."


def plan_ahead(player: Player, last: datetime) -> int:
    """Give her piece, keys, routine and goal; return how many takes that made."""
    ostinato = _begun(player, OSTINATO, grid=2, bpm=72, to=104)
    split(player=player, ladder=ostinato, hands=False, keys=TWELVE, sections=())
    part = ostinato.exercise.parts.get(music_key="A")
    describe_exercise(player=player, exercise=part, next_time="wrist loose, lead from the elbow", note="")
    piece = _piece(player)
    takes = sum(1 for _ in _takes(player, (ostinato, ostinato), piece, last))
    _routine(player, last)
    return takes


def _begun(player: Player, name: str, *, grid: int, bpm: int, to: int) -> Ladder:
    drill = {
        "giusto": "drill/1",
        "name": name,
        "tempo": {"bpm": bpm},
        "cycle": {"beats": 4},
        "clicks": {"on": ["1", "2", "3", "4"]},
        "part": {"grid": grid},
        "cycles": 8,
    }
    vary = {"what": "tempo", "from": bpm, "to": to, "by": 4}
    rule = {"kind": "streak", "clean": 2}
    plain = {"giusto": "ladder/1", "name": name, "drill": drill, "vary": vary, "rule": rule}
    return start_ladder(player=player, ladder=ladder_of(plain))


def _piece(player: Player) -> Piece:
    content = SCORE.read_bytes()
    score = read_score(content)
    part = score.part(None)
    fields: dict[str, Any] = {"music": kept_music(part), "score": content, "score_name": SCORE.name}
    begins = list(range(1, 17, 4))
    piece = keep_piece(
        player=player, name=score.title, goal_bpm=104.0, first_bar=1, last_bar=16, begins=begins, **fields
    )
    change_piece(player=player, piece=piece, found_bpm=118.0, click=Piece.Click.BEATS)
    for stretch in piece.stretches.filter(kind="chunk").select_related("piece__player"):
        say_learned(player=player, stretch=stretch, is_learned=True)
    mark_place(player=player, piece=piece, bar=11, beat=3, sort="rush", note="always")
    return piece


def _takes(player: Player, drilled: Sequence[Ladder], piece: Piece, last: datetime) -> Iterator[Take]:
    seed = FIRST_SEED
    for day in range(DAYS - 1, -1, -1):
        at = last - timedelta(days=day) + timedelta(minutes=35)
        if at.weekday() in FREE:
            continue
        for whole in drilled:
            parts = parts_of(player, [whole.exercise_id], at).get(whole.exercise_id, [])
            one = following(parts) if parts else None
            ladder = one.ladder if one else whole
            for _ in range(2):
                step = standings([ladder], at)[0].step
                yield play(player, DemoTake(at, ladder.exercise.origin, step.drill, _steady(seed), seed))
                seed, at = seed + 1, at + CLEARER
        for _ in range(8):
            yield _of_piece(player, piece, at, seed)
            seed, at = seed + 1, at + CLEARER


def _of_piece(player: Player, piece: Piece, at: datetime, seed: int) -> Take:
    standing = piece_standing(piece, at)
    one = standing.next or standing.stretches[-1]
    stretch = one.stretch
    ladder = climb_stretch(player=player, stretch=stretch, standings=standing.stretches)
    if ladder.spec["rule"] != RULE:
        changed = ladder_of({**ladder.spec, "rule": RULE, "next_day": {"back": 0}})
        ladder = change_ladder(player=player, ladder=ladder, made=changed)
    step = standings([ladder], at)[0].step
    first = stretch.first_bar
    hurried = frozenset(bar - first + 1 for bar in HURRIED_BARS if first <= bar <= stretch.last_bar)
    bars = stretch.last_bar - first + 1
    made = DemoTake(at, ladder.exercise.origin, step.drill, _steady(seed), seed, hurried=hurried, turn=bars)
    return play(player, made)


def _steady(seed: int) -> SimulatedPlayer:
    wobble = ((seed * 37) % 11 - 5) / 5
    return SimulatedPlayer(
        bias_percent=0.1 * wobble, clock_percent=round(0.9 + 0.2 * wobble, 2), hand_ms=5.0, place_ms=-12.0, alpha=0.5
    )


def _routine(player: Player, last: datetime) -> None:
    plain = {
        "giusto": "routine/1",
        "days": ["mon", "tue", "thu", "fri", "sat", "sun"],
        "minutes": 40,
        "start": "18:40",
        "zone": timezone.get_current_timezone_name(),
        "blocks": [
            {"name": "warm-up", "minutes": [3, 5]},
            {"name": "technique", "minutes": [14, 24]},
            {"name": "application", "minutes": [8, 16], "flexible": True},
        ],
        "exercises": [
            {"name": "Every beat", "block": "warm-up", "minutes": 4},
            {"name": "Two bars alone, in fours", "block": "technique", "minutes": 10},
            {
                "name": "Scale through the keys",
                "block": "technique",
                "minutes": 8,
                "keys": {"all": list(TWELVE), "per_session": 2},
                "ladder": OSTINATO,
            },
            {"name": "Lanterns for Odo", "block": "application", "minutes": 12},
        ],
    }
    keep_routine(player=player, routine=routine_of(plain), weekly_minutes=160)
    aim(player)


def aim(player: Player) -> None:
    """Give the week that is now its goal."""
    monday = timezone.localdate() - timedelta(days=timezone.localdate().weekday())
    choose_week(player=player, monday=monday, days=None, goal=GOALS)
