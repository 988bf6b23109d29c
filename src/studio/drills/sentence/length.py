"""A length in minutes, as cycles."""

from __future__ import annotations

from giusto.drill import Drill
from giusto.drill.file import MOST_CYCLES, FixedSilence
from giusto.schedule import schedule


def cycles_for(drill: Drill, minutes: float) -> int:
    """Return how many cycles last about so many minutes, in whole turns of click and silence.

    Parameters
    ----------
    drill : Drill
        Of any length.
    minutes : float
        Count-in and close left out.
    """
    wanted_s = 60 * minutes
    silence = drill.clicks.silence
    turn = silence.heard + silence.silent if isinstance(silence, FixedSilence) else 1
    most = max(MOST_CYCLES // turn, 1)

    def lasts_s(turns: int) -> float:
        plan = schedule(drill.model_copy(update={"cycles": min(turns * turn, MOST_CYCLES)}))
        return plan.between_s(plan.body_tick, plan.body_tick + plan.drill.cycles * plan.cycle_ticks)

    if drill.tempo.steps is None:
        turns = round(wanted_s / lasts_s(1))
    else:  # later turns last shorter, or longer
        turns, beyond = 0, most + 1
        while beyond - turns > 1:
            middle = (turns + beyond) // 2
            turns, beyond = (middle, beyond) if lasts_s(middle) <= wanted_s else (turns, middle)
    return min(min(max(turns, 1), most) * turn, MOST_CYCLES)
