"""A take of the demo, played by a simulated player and sent as a browser would send it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from uuid import NAMESPACE_URL, uuid5

from giusto.drill import Drill
from giusto.schedule import schedule
from giusto.simulation.player import Player as SimulatedPlayer
from giusto.simulation.player import simulate
from studio.accounts.models import Player
from studio.takes.actions import add_batch, begin_take, end_take
from studio.takes.messages import Begin, End, Note, Notes, SimulatedBy
from studio.takes.models import Take
from studio.takes.reading import read_take

ZERO_S = 1.0
BATCH_NOTES = 64


@dataclass(frozen=True, slots=True)
class DemoTake:
    """One take of the demo: when, what and how well."""

    at: datetime
    origin: str
    drill: Drill
    player: SimulatedPlayer
    seed: int


def play(player: Player, made: DemoTake) -> Take:
    """Play, keep and read a take."""
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
