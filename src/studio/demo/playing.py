"""A take of the demo, played by a simulated player and sent as a browser would send it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from uuid import NAMESPACE_URL, uuid5

import numpy as np

from giusto.arrays import FloatArray
from giusto.drill import Drill
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from giusto.simulation.player import simulate
from studio.accounts.models import Player
from studio.takes.actions import add_batch, begin_take, end_take
from studio.takes.messages import Begin, End, Note, Notes, SimulatedBy
from studio.takes.models import Take
from studio.takes.reading import read_take

ZERO_S = 1.0
BATCH_NOTES = 64
HURRIED_S, HALF, NEAR_THE_BEAT = 0.018, 0.5, 0.04


@dataclass(frozen=True, slots=True)
class DemoTake:
    """One take of the demo: when, what and how well; perhaps with bars whose second halves are hurried."""

    at: datetime
    origin: str
    drill: Drill
    player: SimulatedPlayer
    seed: int
    hurried: frozenset[int] = frozenset()
    turn: int = 1


def play(player: Player, made: DemoTake) -> Take:
    """Play, keep and read a take."""
    onsets_s = _played(made)
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
    stamps = [round(1000 * (onset + ZERO_S), 4) for onset in onsets_s.tolist()]
    batches = [stamps[i : i + BATCH_NOTES] for i in range(0, len(stamps), BATCH_NOTES)]
    for number, some in enumerate(batches):
        pairs = [(ms / 1000, ms) for ms in (some[0], some[-1] + 1)]
        message = Notes(notes=[Note(at_ms=ms, source="simulated") for ms in some], pairs=pairs)
        add_batch(player=player, take=take, number=number, message=message)
    end_take(player=player, take=take, message=End(how="complete", batches=len(batches)))
    read_take(take.pk)
    return take


def _played(made: DemoTake) -> FloatArray:
    """Return when the notes come, the hurried ones a little early."""
    onsets_s = simulate(schedule(made.drill), made.player, seed=made.seed).onsets_s
    if not made.hurried:
        return onsets_s
    bar_s = made.drill.cycle.beats * 60 / made.drill.tempo.bpm
    at = np.maximum(onsets_s / bar_s - made.drill.count_in, 0.0) + NEAR_THE_BEAT
    bar, part = np.floor(at).astype(np.int64) % made.turn + 1, at % 1
    early = np.isin(bar, list(made.hurried)) & (part >= HALF)
    found: FloatArray = np.sort(onsets_s - np.where(early, HURRIED_S, 0.0))
    return found
