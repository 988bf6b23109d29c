"""Some weeks of an invented player's takes, eight as a rule: from rushing, as most do, towards holding.

Everything is made by the simulated player from fixed seeds and goes through the same actions as a
real take. The player, her instruments and her course are made up.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta
from itertools import count

from giusto.drill import validate
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from studio.accounts.models import DEMO, Player
from studio.demo.climbing import AWAY, climb
from studio.demo.planning import plan_ahead
from studio.demo.playing import DemoTake, play
from studio.drills.shelf import shelf
from studio.takes.actions import annotate_take

NAME, INSTRUMENT = "Ilse Varandi", "frame drum and marimba"
WEEKS = 8
DAYS = (0, 1, 3, 4, 5)  # of each week, counted back from its end
DRILLS = ("every-beat", "two-and-four", "two-heard-two-silent", "one-a-cycle", "one-heard-three-silent")
NOTES = {
    2: "Frame drum, right hand. Rushed the second half of each silence.",
    11: "Marimba, the low C ostinato.",
    23: "Counted sixteenths aloud. Calmer.",
    34: "Tired. Stopped after this one.",
    45: "Marimba: “Lanterns for Odo”, bars 9 to 24 in the hands.",
}


def demo_takes(now: datetime, weeks: int = WEEKS) -> Iterator[DemoTake]:
    """Return the takes of the weeks up to yesterday evening, oldest first."""
    last = last_evening(now)
    seeds = count(101)
    for week in range(weeks):
        done = week / max(weeks - 1, 1)
        for day in DAYS:
            evening = last - timedelta(days=7 * (weeks - 1 - week) + max(DAYS) - day)
            seed = next(seeds)
            if is_away(evening, last):
                continue
            yield _made(evening, DRILLS[seed % len(DRILLS)], done, seed)
            if day % 2:
                seed = next(seeds)
                at = evening + timedelta(minutes=9)
                yield _made(at, "two-heard-two-silent", done, seed)


def make_demo(now: datetime, weeks: int = WEEKS) -> int:
    """Make the demo's player, her takes and her ladders, in place of what was there; return how many takes."""
    Player.objects.filter(username=DEMO).delete()
    named = {"display_name": NAME, "instrument": INSTRUMENT}
    player = Player.objects.create(username=DEMO, **named)
    total = 0
    for total, made in enumerate(demo_takes(now, weeks), start=1):
        take = play(player, made)
        if text := NOTES.get(total):
            annotate_take(player=player, take=take, note=text)
    last = last_evening(now)
    return total + climb(player, last, min(weeks, WEEKS)) + (plan_ahead(player, last) if weeks > 1 else 0)


def last_evening(now: datetime) -> datetime:
    """Return the evening before a moment."""
    return (now - timedelta(days=1)).replace(hour=18, minute=40, second=0, microsecond=0)


def is_away(evening: datetime, last: datetime) -> bool:
    """Whether she was away on an evening."""
    return (last - evening).days in AWAY


# Where each drill starts in the first week, and how much faster it gets in one of eight.
TEMPOS_BPM = {"every-beat": (66, 2.0)}
STARTS_BPM = (84, 2.0)


def _made(at: datetime, slug: str, done: float, seed: int) -> DemoTake:
    week = round(done * (WEEKS - 1))
    start_bpm, a_week = TEMPOS_BPM.get(slug, STARTS_BPM)
    plain = shelf()[slug].drill.plain()
    # Every second week all but the first drill go up a notch of four.
    gained = a_week * week if slug in TEMPOS_BPM else 2 * a_week * (week // 2)
    plain["tempo"]["bpm"] = start_bpm + gained
    return DemoTake(at, slug, validate(plain), _player(done, seed), seed)


def _player(done: float, seed: int) -> SimulatedPlayer:
    wobble = ((seed * 37) % 11 - 5) / 5  # −1 to 1: some days are better than others
    return SimulatedPlayer(
        bias_percent=round(1.7 * (1 - done) ** 1.3 + 0.15 + 0.35 * wobble, 2),
        clock_percent=round(2.0 - 0.9 * done, 2),
        hand_ms=round(9.5 - 2.5 * done, 1),
        place_ms=round(-22 + 4 * wobble, 1),
        alpha=0.45,
        missed=0.01 if seed % 3 else 0.0,
        extra=0.006 if seed % 4 == 0 else 0.0,
    )
