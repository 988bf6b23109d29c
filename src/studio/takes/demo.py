"""Some weeks of an invented player's takes, eight as a rule: from rushing, as most do, towards holding.

Everything is made by the simulated player from fixed seeds and goes through the same actions as a
real take. The player, her instruments and her course are made up.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import count
from uuid import NAMESPACE_URL, uuid5

from giusto.drill import Drill, validate
from giusto.schedule import schedule
from giusto.simulation.player import Player as SimulatedPlayer
from giusto.simulation.player import simulate
from studio.accounts.models import DEMO, Player
from studio.drills.shelf import shelf
from studio.takes.actions import add_batch, annotate_take, begin_take, end_take
from studio.takes.messages import Begin, End, Note, Notes, SimulatedBy
from studio.takes.models import Take
from studio.takes.reading import read_take

NAME, INSTRUMENT = "Ilse Varandi", "frame drum and marimba"
WEEKS = 8
DAYS = (0, 1, 3, 4, 5)  # of each week, counted back from its end
ZERO_S = 1.0
BATCH_NOTES = 16
DRILLS = ("every-beat", "two-and-four", "two-heard-two-silent", "one-a-cycle", "one-heard-three-silent")
NOTES = {
    2: "Frame drum, right hand. Rushed the second half of each silence.",
    11: "Marimba, the low C ostinato.",
    23: "Counted sixteenths aloud. Calmer.",
    34: "Tired. Stopped after this one.",
    45: "Marimba: “Lanterns for Odo”, bars 9 to 24 in the hands.",
}


@dataclass(frozen=True, slots=True)
class DemoTake:
    """One take of the demo: when, what and how well."""

    at: datetime
    origin: str
    drill: Drill
    player: SimulatedPlayer
    seed: int


def demo_takes(now: datetime, weeks: int = WEEKS) -> Iterator[DemoTake]:
    """Return the takes of the weeks up to yesterday evening, oldest first."""
    last = (now - timedelta(days=1)).replace(hour=18, minute=40, second=0, microsecond=0)
    seeds = count(101)
    for week in range(weeks):
        done = week / max(weeks - 1, 1)
        for day in DAYS:
            evening = last - timedelta(days=7 * (weeks - 1 - week) + max(DAYS) - day)
            seed = next(seeds)
            yield _made(evening, DRILLS[seed % len(DRILLS)], done, seed)
            if day % 2:
                seed = next(seeds)
                at = evening + timedelta(minutes=9)
                yield _made(at, "two-heard-two-silent", done, seed)


def make_demo(now: datetime, weeks: int = WEEKS) -> int:
    """Make the demo's player, and her takes; return how many."""
    named = {"display_name": NAME, "instrument": INSTRUMENT}
    player, _ = Player.objects.update_or_create(username=DEMO, defaults=named)
    total = 0
    for total, made in enumerate(demo_takes(now, weeks), start=1):
        take = _play(player, made)
        if text := NOTES.get(total):
            annotate_take(player=player, take=take, note=text)
    return total


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


def _play(player: Player, made: DemoTake) -> Take:
    played = simulate(schedule(made.drill), made.player, seed=made.seed)
    figures = {name: getattr(made.player, name) for name in made.player.__slots__}
    take = begin_take(
        player=player,
        take_id=uuid5(NAMESPACE_URL, f"demo {made.seed}"),
        message=Begin(
            drill=made.drill.plain(),
            origin=made.origin,
            input="simulated",
            simulated=SimulatedBy(seed=made.seed, player=figures),
            device={"browser": "demo"},
            zero_audio_s=ZERO_S,
            started_at=made.at,
        ),
    )
    stamps = [round(1000 * (onset + ZERO_S), 4) for onset in played.onsets_s.tolist()]
    batches = [stamps[i : i + BATCH_NOTES] for i in range(0, len(stamps), BATCH_NOTES)]
    for number, some in enumerate(batches):
        pairs = [(ms / 1000, ms) for ms in (some[0], some[-1] + 1)]
        message = Notes(notes=[Note(at_ms=ms, source="simulated") for ms in some], pairs=pairs)
        add_batch(player=player, take=take, number=number, message=message)
    end_take(player=player, take=take, message=End(how="complete", batches=len(batches)))
    read_take(take.pk)
    return take
