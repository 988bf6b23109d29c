"""Just the click: what sounds of a drill, over and over, until it is stopped."""

from __future__ import annotations

from typing import Any

from giusto.click.said import said
from giusto.drill import Drill
from giusto.schedule import Schedule, schedule

MOST_BARS = 256  # of a round: a longer drill begins anew after so many


def just_the_click(drill: Drill, *, school: str) -> dict[str, Any]:
    """Return the clicks of a drill as rounds that a browser plays until it is stopped.

    Returns
    -------
    dict
        ``beat_s``; ``plain``, the click without its silences, and ``dropping``, with them: each ``beats``, how long a
        round is, and ``clicks``, each with its place in beats, its kind and the word that counts it by a school of
        counting. A climbing tempo stays at its first.
    """
    steady = drill.model_copy(update={"tempo": drill.tempo.model_copy(update={"steps": None}), "close": 1})
    bare = steady.model_copy(update={"clicks": drill.clicks.model_copy(update={"silence": None})})
    shift = drill.clicks.shift
    bars = drill.clicks.every if shift is None else drill.cycles
    return {
        "beat_s": round(60 / drill.tempo.bpm, 6),
        "plain": _round(schedule(bare.model_copy(update={"cycles": min(bars, MOST_BARS)})), school),
        "dropping": _round(schedule(steady.model_copy(update={"cycles": min(drill.cycles, MOST_BARS)})), school),
    }


def _round(plan: Schedule, school: str) -> dict[str, Any]:
    """Return the clicks of a plan's body, in beats from its first."""
    end = plan.drill.cycles * plan.cycle_ticks
    ticks, words = (plan.clicks.tick - plan.body_tick).tolist(), said(plan, school=school)
    places = zip(ticks, plan.kinds.tolist(), words, strict=True)
    clicks = [[round(tick / plan.ticks_per_beat, 6), kind, word] for tick, kind, word in places if 0 <= tick < end]
    return {"beats": plan.drill.cycles * plan.drill.cycle.beats, "clicks": clicks}
