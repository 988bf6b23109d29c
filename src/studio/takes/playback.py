"""What the browser needs to play a drill: clicks in seconds, what the page says when, urls."""

from __future__ import annotations

import secrets
from dataclasses import asdict
from itertools import groupby
from typing import Any

import numpy as np
from django.urls import reverse

from giusto.click.said import said
from giusto.drill import Drill, validate
from giusto.drill.counting import Count
from giusto.drill.file import Segment
from giusto.practice.ceiling import is_probe
from giusto.reading.one_silence import settle_s
from giusto.schedule import Schedule, schedule
from giusto.schedule.layout import turns
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.drills.draw import is_by_chance
from studio.drills.sentence.codec import query, words_of
from studio.sheet.layout import Rows
from studio.sheet.rows import cycle_words
from studio.takes.models import Take
from studio.vocabulary import school, spoken_counts

MOST_COUNTS, MOST_TURNS = 48, 60  # what can be read beside the state
STRENGTHS = (0.35, 0.9)  # of a stand-in's notes
END_S = 0.4  # after the last cycle, for a note that comes late


def playback(
    drill: Drill,
    *,
    origin: str,
    simulated: SimulatedPlayer | None,
    small: Rows,
    delivery: dict[str, Any],
    player: str,
    ear: dict[str, Any],
) -> dict[str, Any]:
    """Return what the browser plays a take from.

    Parameters
    ----------
    drill : Drill
    origin : str
        Where its sentence started.
    simulated : SimulatedPlayer or None
        Who plays, where it isn't a person.
    small : Rows
        The rows of the sheet beside the state, for the bar at the current stretch.
    delivery : dict
        How the click reaches the player (``delivery_plan``).
    player : str
        Whose take it will be, so that what is kept in the browser names its player.
    ear : dict
        By what the player is heard (``ear_plan``); a stand-in plays by itself.

    Returns
    -------
    dict
        ``clicks``: seconds, kind, and the word said on it where it is counted; ``stretches``: what the page says from
        which click on; ``silences``: start and end; ``notes_s``, ``strengths`` and ``simulated`` where a simulated
        player plays.
    """
    plan = schedule(drill)
    found: dict[str, Any] = {
        "drill": drill.plain(),
        "origin": origin,
        "player": player,
        "delivery": delivery,
        "clicks": _clicks(plan, counted=delivery["counted"]),
        "stretches": stretches(plan, small),
        "silences": [_rounded(plan, [s.start_tick, s.end_tick]) for s in plan.silences],
        "cycle_ends": _cycle_ends(plan) if is_probe(drill) else [],
        "beat_s": float(np.max(plan.tempos.beat_s(plan.tempos.tick))),
        "settle_s": settle_s(plan),
        "end_s": float(plan.seconds(plan.end_tick)) + END_S,
        "input": "simulated" if simulated else ear["by"],
        "ear": ear,
        "bpm": drill.tempo.bpm,
        "count_beats": drill.count_in * drill.cycle.beats,
        "words": query({**words_of(drill), "drill": origin}),
    }
    if simulated:
        seed = secrets.randbelow(2**31)
        found["simulated"] = {"seed": seed, "player": asdict(simulated)}
        found["notes_s"] = [round(s, 7) for s in simulate(plan, simulated, seed=seed).onsets_s.tolist()]
        found["strengths"] = np.random.default_rng(seed).uniform(*STRENGTHS, len(found["notes_s"])).round(3).tolist()
    return found


def _clicks(plan: Schedule, *, counted: bool) -> list[tuple[Any, ...]]:
    words = [said(plan, school=school())] if counted else []
    return list(zip(_rounded(plan, plan.clicks.tick), plan.kinds.tolist(), *words, strict=True))


def _cycle_ends(plan: Schedule) -> list[float]:
    return _rounded(plan, [plan.body_tick + plan.cycle_ticks * number for number in range(1, plan.drill.cycles + 1)])


def spoken(drill: Drill) -> list[tuple[Count, ...]]:
    """Return the counts of a figure, one list for each turn of the part; none where all slots are played."""
    play = drill.part.play
    if isinstance(play, str) or drill.cycle.beats * drill.part.grid > MOST_COUNTS:
        return []
    segments = [piece for piece in play if isinstance(piece, Segment)]
    return [spoken_counts(drill, segment=number) for number in range(len(segments) or 1)][:MOST_TURNS]


def stretches(plan: Schedule, small: Rows) -> list[dict[str, Any]]:
    """Return what the page says, from one sounding click to a later one.

    A stretch alone begins on the last click heard before it, and ends on the click that returns, so
    that the page never changes in a silence.
    """
    return [_count_in(plan), *_body(plan, small)] if plan.drill.count_in else _body(plan, small)


def _count_in(plan: Schedule) -> dict[str, Any]:
    beats = plan.drill.count_in * plan.drill.cycle.beats
    return {
        "from_s": 0.0,
        "state": "count",
        "word": "Ready",
        "cycles": ["", str(beats), "beats, then play"],
        "aside": "",
        "turn": 0,
        "bar": None,
    }


def sentence_address(take: Take) -> str:
    """Return the address of the sentence with the drill of a take in it."""
    words = {**words_of(validate(take.drill)), "drill": take.exercise.origin if take.exercise else ""}
    return f"{reverse('drills:set')}?{query(words)}"


def _body(plan: Schedule, small: Rows) -> list[dict[str, Any]]:
    words = cycle_words(plan)
    if is_by_chance(plan.drill):  # what is still to come must not be told
        words = ["click" if word == "alone" else word for word in words]
    turn = turns(plan.drill)
    # A new turn of the part begins a new stretch, but never in a silence.
    keys = [(word, 0 if word == "alone" else turn[cycle - 1]) for cycle, word in enumerate(words, 1)]
    runs = [(key[0], [c for c, _ in run]) for key, run in groupby(enumerate(keys, 1), key=lambda pair: pair[1])]
    found = []
    for position, (word, cycles) in enumerate(runs):
        first, last = cycles[0], cycles[-1]
        start = plan.body_tick + (first - 1) * plan.cycle_ticks
        length_s = plan.between_s(start, start + len(cycles) * plan.cycle_ticks)
        following = runs[position + 1][0] if position + 1 < len(runs) else ""
        found.append(
            {
                "from_s": round(_click_at(plan, start, before=word == "alone"), 9),
                "state": word,
                "word": word.capitalize(),
                "cycles": _cycles(plan, first, last, word),
                "aside": _aside(plan, runs, position, word, following, length_s),
                "turn": turn[first - 1],
                "bar": [round(small.top + (first - 1) * small.height, 1), round(len(cycles) * small.height, 1)],
            }
        )
    return found


def _click_at(plan: Schedule, tick: int, *, before: bool) -> float:
    """Return when the page may change: the last click before a silence, else the first from it on."""
    clicks = plan.clicks.tick
    if not clicks.size:  # one still page, all the way
        return float(plan.seconds(tick))
    index = int(clicks.searchsorted(tick)) - (1 if before else 0)
    return float(plan.seconds(int(clicks[min(max(index, 0), len(clicks) - 1)])))


def _cycles(plan: Schedule, first: int, last: int, word: str) -> list[str]:
    if word == "close":
        return ["play on to the end"]
    of = f"of {plan.drill.cycles}"
    return ["bar", str(first), of] if first == last else ["bars", f"{first}–{last}", of]


def _aside(
    plan: Schedule, runs: list[tuple[str, list[int]]], position: int, word: str, following: str, length_s: float
) -> str:
    if word == "alone":
        return f"for {length_s:.0f} s" if length_s >= 1 else f"for {length_s:.1f} s"
    if following == "alone":
        alone = runs[position + 1][1]
        start = plan.body_tick + (alone[0] - 1) * plan.cycle_ticks
        alone_s = plan.between_s(start, start + len(alone) * plan.cycle_ticks)
        return f"then {alone_s:.0f} s alone"
    gaps_s = [plan.between_s(s.start_tick, s.end_tick) for s in plan.silences]
    if word == "click" and gaps_s and not is_by_chance(plan.drill):
        return f"{max(gaps_s):.1f} s from click to click"
    return ""


def _rounded(plan: Schedule, ticks: Any) -> list[float]:
    return [round(float(s), 9) for s in plan.seconds(ticks)]
