"""An invented studio: a teacher and five pupils, some weeks of each, what was said and asked.

Everything is played by the simulated player from fixed seeds and goes through the same actions as a real take. People,
instruments and what they say are made up.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import count

from giusto.practice.ladder import ladder_of
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from studio.accounts.models import INVENTED, Player
from studio.demo.playing import DemoTake, play
from studio.drills.actions import keep_drill
from studio.drills.shelf import shelf
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.ladders.standing import standings
from studio.plans.actions import begin_preset
from studio.plans.presets import PRESETS
from studio.takes.actions import annotate_take
from studio.takes.models import Take
from studio.teaching import actions
from studio.teaching.models import Scope

TEACHER = ("runa", "Runa Falk", "percussion")
FIRST_SEED = 20_001
AGREED = timedelta(days=300)
SLUG = "two-heard-two-silent"
BETWEEN = timedelta(minutes=3)


@dataclass(frozen=True, slots=True)
class Pupil:
    """An invented pupil.

    Attributes
    ----------
    name, called, instrument : str
    weeks : int
        How long they have been playing here.
    days : tuple of int
        On which days of a week, counted back from yesterday.
    skill_bpm, a_week_bpm : float
        The tempo up to which they hold their time in the first week, and how much more with each.
    rush : (float, float)
        Percent, in the first week and in the last.
    takes : int
        On each of those days.
    shows : tuple of str
        What they agreed to besides takes.
    """

    name: str
    called: str
    instrument: str
    weeks: int
    days: tuple[int, ...]
    skill_bpm: float
    a_week_bpm: float
    rush: tuple[float, float]
    takes: int
    shows: tuple[str, ...] = ()


PUPILS = (
    Pupil("tavi", "Tavi Oren", "frame drum", 4, (0, 2, 3, 5), 76, 5, (0.6, 0.2), 3, (Scope.WORDS,)),
    Pupil("mirel", "Mirel Asp", "marimba", 5, (1, 3, 5), 75, 0, (0.5, 0.5), 3, (Scope.WORDS, Scope.SOUND)),
    Pupil("jona", "Jona Kett", "snare drum", 3, (6,), 80, 2, (0.8, 0.7), 4),
    Pupil("sanna", "Sanna Brook", "bass", 6, (0, 1, 4), 72, 3, (2.4, 0.2), 3),
    Pupil("edda", "Edda Lum", "hands and feet", 1, (1,), 70, 0, (1.0, 1.0), 2),
)
SAYS = {
    "tavi": "The silences breathe now. Leave the left hand where it was on Tuesday.",
    "mirel": "You hurry the first stroke after the click goes. Hear it before you play it.",
    "sanna": "Listen to the take of the first week beside this one.",
}
WROTE = {"tavi": "Counted aloud, calmer.", "mirel": "Three times the same place."}


def make_studio(now: datetime, password: str) -> int:
    """Make the invented studio anew; return how many takes that made."""
    take_away()
    name, called, instrument = TEACHER
    teacher = _person(name, called, instrument, password, Player.Role.TEACHER)
    seeds = count(FIRST_SEED)
    begin_preset(player=teacher, key=next(iter(PRESETS)))
    own = keep_drill(
        player=teacher, drill=shelf()["one-heard-three-silent"].drill, name="Three alone", family="dropped"
    )
    total = 0
    for one in PUPILS:
        pupil = _person(one.name, one.called, one.instrument, password)
        until = now.date() + AGREED
        actions.agree(player=pupil, teacher=teacher, scopes=one.shows, since=None, until=until)
        if one.name != "edda":
            begin_preset(player=pupil, key=next(iter(PRESETS)))
        takes = _play(pupil, one, now, seeds)
        total += len(takes)
        if text := WROTE.get(one.name):
            annotate_take(player=pupil, take=takes[-1], note=text)
        if text := SAYS.get(one.name):
            actions.say(player=teacher, pupil=pupil, text=text, take=takes[-1])
        if one.name in ("tavi", "sanna"):
            due = now.date() + timedelta(days=6)
            asked = actions.assign(player=teacher, pupil=pupil, what=f"drill:{own.pk}", goal="three clean", due=due)
            if one.name == "tavi":
                actions.accept(player=pupil, assignment=asked)
    return total


def take_away() -> None:
    """Delete the invented studio."""
    Player.objects.filter(username__startswith=INVENTED).delete()


def _person(name: str, called: str, instrument: str, password: str, role: str = Player.Role.PLAYER) -> Player:
    fields = {"display_name": called, "instrument": instrument, "role": role}
    return Player.objects.create_user(f"{INVENTED}{name}", password=password, **fields)


def _play(player: Player, pupil: Pupil, now: datetime, seeds: Iterator[int]) -> list[Take]:
    """Play a pupil's weeks, up a ladder of tempo."""
    ladder = _ladder(player)
    last = (now - timedelta(days=1)).replace(hour=17, minute=30, second=0, microsecond=0)
    takes: list[Take] = []
    for day in range(7 * pupil.weeks - 1, -1, -1):
        if day % 7 not in pupil.days:
            continue
        done = 1 - day / max(7 * pupil.weeks - 1, 1)
        for number in range(pupil.takes):
            at = last - timedelta(days=day) + number * BETWEEN
            step = standings([ladder], at)[0].step
            seed = next(seeds)
            hand = _hand(pupil, step.drill.tempo.bpm, done, seed)
            takes.append(play(player, DemoTake(at, ladder.exercise.origin, step.drill, hand, seed)))
    return takes


def _ladder(player: Player) -> Ladder:
    plain = {
        "giusto": "ladder/1",
        "name": "Two bars alone",
        "drill": shelf()[SLUG].drill.plain(),
        "vary": {"what": "tempo", "from": 68, "to": 112, "by": 4},
        "rule": {"kind": "streak", "clean": 2},
    }
    return start_ladder(player=player, ladder=ladder_of(plain))


def _hand(pupil: Pupil, bpm: float, done: float, seed: int) -> SimulatedPlayer:
    """Return how a pupil plays at a tempo: in time up to their skill, rushing above it."""
    skill = pupil.skill_bpm + pupil.a_week_bpm * pupil.weeks * done
    above = max(bpm - skill, 0.0)
    first, latest = pupil.rush
    wobble = ((seed * 37) % 11 - 5) / 5
    return SimulatedPlayer(
        bias_percent=round(first + (latest - first) * done + 0.15 * above + 0.1 * wobble, 2),
        clock_percent=round(0.6 + 0.03 * above, 2),
        hand_ms=6.0,
        place_ms=round(-16 + 4 * wobble, 1),
        alpha=0.5,
    )
