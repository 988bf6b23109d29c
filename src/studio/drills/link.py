"""A drill as the words of its sentence, and these as an address: a link that carries the drill."""

from __future__ import annotations

import re
from decimal import Decimal
from typing import Any
from urllib.parse import urlencode

from giusto.drill import Drill, FixedSilence, GrowingSilence, RandomSilence, Segment
from giusto.figures import SIXTEENTHS, figure_places, figures
from studio.drills.sentence import click_places, click_word

FIGURE = "figure-"  # and its number: a figure of the beat, on each beat
# Words of a plain drill: what an address leaves out.
PLAIN_WORDS: dict[str, str] = {
    "name": "",
    "beat": "1/4",
    "groups": "",
    "on": "every",
    "places": "",
    "every": "1",
    "accent": "none",
    "split": "1",
    "drop": "no",
    "heard": "2",
    "silent": "2",
    "step": "1",
    "longest": "6",
    "unit": "beat",
    "chance": "30",
    "most": "3",
    "seed": "1",
    "shift": "no",
    "shift_by": "1/2",
    "shift_every": "2",
    "play": "grid",
    "notes": "",
    "turns": "",
    "count_in": "1",
    "close": "1",
    "by": "hands",
    "lean": "-1",
    "skill": "fair",
}


def words_of(drill: Drill) -> dict[str, str]:
    """Return the words of a drill's sentence, every one of them."""
    clicks, cycle = drill.clicks, drill.cycle
    word = click_word(drill)
    return {
        **PLAIN_WORDS,
        "name": drill.name,
        "bpm": str(drill.plain()["tempo"]["bpm"]),
        "beat": drill.tempo.beat,
        "beats": str(cycle.beats),
        "groups": "" if cycle.grouping == (cycle.beats,) else "+".join(map(str, cycle.grouping)),
        "on": word,
        "places": ", ".join(clicks.on) if word == "marked" else "",
        "every": str(clicks.every),
        "accent": clicks.accent,
        "split": str(clicks.subdivide),
        "count_in": str(drill.count_in),
        "cycles": str(drill.cycles),
        "close": str(drill.close),
        "grid": str(drill.part.grid),
        **_silence_words(drill),
        **_shift_words(drill),
        **_part_words(drill),
    }


def plain_of(words: dict[str, Any]) -> dict[str, Any]:
    """Return the plain drill that the (checked) words make; the core has the last word on it."""
    on = words["on"]
    groups = [int(size) for size in re.findall(r"\d+", words["groups"])]
    return {
        "giusto": "drill/1",
        "name": words["name"],
        "tempo": {"bpm": float(words["bpm"]), "beat": words["beat"]},
        "cycle": {"beats": words["beats"], "groups": groups or None},
        "clicks": {
            "on": places(words["places"]) if on == "marked" else click_places(on, words["beats"]),
            "every": words["every"],
            "silence": _plain_silence(words),
            "shift": {"every_cycles": words["shift_every"], "by": words["shift_by"]}
            if words["shift"] == "moving"
            else None,
            "accent": words["accent"],
            "subdivide": words["split"],
        },
        "part": {"grid": words["grid"], "play": _plain_play(words)},
        "count_in": words["count_in"],
        "cycles": words["cycles"],
        "close": words["close"],
    }


def query(words: dict[str, Any], **changes: Any) -> str:
    """Return words, some of them changed, as the query of an address; plain ones are left out."""
    return urlencode({k: v for k, v in {**words, **changes}.items() if str(v) != PLAIN_WORDS.get(k)})


def places(text: str) -> list[str]:
    """Return the places of a text such as ``1, 2+1/2``."""
    return [place for place in re.split(r"[,;\s]+", text.strip()) if place]


def _silence_words(drill: Drill) -> dict[str, str]:
    silence = drill.clicks.silence
    if isinstance(silence, RandomSilence):
        chance = (Decimal(str(silence.probability)) * 100).normalize()
        return {
            "drop": "random",
            "unit": silence.unit,
            "chance": f"{chance:f}",
            "most": str(silence.longest),
            "seed": str(silence.seed),
        }
    if not isinstance(silence, FixedSilence | GrowingSilence):
        return {}
    words = {"drop": silence.kind, "heard": str(silence.heard), "silent": str(silence.silent)}
    if isinstance(silence, GrowingSilence):
        words |= {"step": str(silence.step), "longest": str(silence.max)}
    return words


def _plain_silence(words: dict[str, Any]) -> dict[str, Any] | None:
    kind = words["drop"]
    if kind == "random":
        chance = float(Decimal(str(words["chance"])) / 100)
        fields = {"unit": words["unit"], "probability": chance, "longest": words["most"], "seed": words["seed"]}
        return {"kind": kind, **fields}
    cycles = {"kind": kind, "heard": words["heard"], "silent": words["silent"]}
    return {
        "no": None,
        "fixed": cycles,
        "growing": {**cycles, "step": words["step"], "max": words["longest"]},
    }[kind]


def _shift_words(drill: Drill) -> dict[str, str]:
    shift = drill.clicks.shift
    return {"shift": "moving", "shift_by": shift.by, "shift_every": str(shift.every_cycles)} if shift else {}


def _part_words(drill: Drill) -> dict[str, str]:
    play = drill.part.play
    if isinstance(play, str):
        return {"play": play}
    if isinstance(play[0], Segment):
        turns = [f"{piece.cycles}: {', '.join(piece.at)}" for piece in play if isinstance(piece, Segment)]
        return {"play": "turns", "turns": "; ".join(turns)}
    named = [str(place) for place in play]
    for number, figure in enumerate(figures()):
        if drill.part.grid == SIXTEENTHS and named == figure_places(figure, beats=drill.cycle.beats):
            return {"play": f"{FIGURE}{number}"}
    return {"play": "places", "notes": ", ".join(named)}


def _plain_play(words: dict[str, Any]) -> Any:
    if words["play"] == "places":
        return places(words["notes"])
    if words["play"].startswith(FIGURE):
        return figure_places(figures()[int(words["play"].removeprefix(FIGURE))], beats=words["beats"])
    if words["play"] == "turns":
        turns = [turn.partition(":") for turn in words["turns"].split(";") if turn.strip()]
        return [{"cycles": _whole(cycles), "at": places(at)} for cycles, _, at in turns]
    return words["play"]


def _whole(text: str) -> int | str:
    """Return a whole number, or the text itself for the core to refuse."""
    return int(text) if text.strip().isdecimal() else text.strip()
