"""What makes two drills the same exercise, and what varies between its rungs.

A key hashes only what differs from the defaults, in one spelling: a field that comes later, with a default that
says nothing, changes no key of a drill without it. What does change keys (another default, another rule of what is the
same) needs another ``VERSION``; then ``./giusto manage rekey`` computes all of them anew.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from fractions import Fraction
from hashlib import sha256
from typing import Any

from giusto.drill import position
from giusto.drill.file import Drill, FixedSilence, GrowingSilence, RandomSilence

VERSION = "k2:"  # begins every key, so that one of an earlier rule is known as such
DIGITS = 32  # of 64 hexadecimal ones: 128 bits, so that no two drills share them
KEY_LENGTH = 40  # at the most, with any version to come
# What varies from rung to rung, beside name and tempo: how long a silence lasts, and how long all of it.
SILENCE_LENGTHS = ("heard", "silent", "step", "max", "longest")
LENGTHS = ("cycles", "count_in", "close")


@dataclass(frozen=True, slots=True)
class Rung:
    """The values that vary within an exercise.

    Attributes
    ----------
    tempo_bpm : float
        The first tempo.
    silent_cycles : int
        The longest silence that the drill makes, in cycles (in beats where single beats drop out); 0 where
        nothing drops out.
    slots : int
        Notes to the beat.
    """

    tempo_bpm: float
    silent_cycles: int
    slots: int


def drill_key(drill: Drill) -> str:
    """Return what a drill shares with the same drill at another tempo, of another name, or drawn anew.

    Examples
    --------
    >>> from giusto.drill import validate
    >>> one = {"giusto": "drill/1", "tempo": {"bpm": 96}, "cycle": {"beats": 4}, "clicks": {"on": ["2+2/4"]},
    ...     "part": {"grid": 2}, "cycles": 8}
    >>> other = one | {"name": "Renamed", "tempo": {"bpm": 98}, "clicks": {"on": ["2+1/2"]}}
    >>> drill_key(validate(one)) == drill_key(validate(other))
    True
    """
    return _digest(_same(drill))


def rung_key(drill: Drill) -> str:
    """Return what takes of one rung share: all but name, draw, and how long the drill goes on."""
    plain = _same(drill) | {"tempo": drill.tempo.model_dump(mode="json", exclude_defaults=True)}
    return _digest(_without_lengths(plain))


def exercise_key(drill: Drill) -> str:
    """Return what all rungs of an exercise share: ``drill_key`` without lengths and notes to the beat."""
    plain = _without_lengths(_same(drill))
    if silence := plain["clicks"].get("silence"):
        plain["clicks"]["silence"] = {k: v for k, v in silence.items() if k not in SILENCE_LENGTHS}
    if "play" not in plain["part"]:
        del plain["part"]["grid"]
    return _digest(plain)


def is_current(key: str) -> bool:
    """Return whether a key is of the rule as it is now."""
    return key.startswith(VERSION)


def rung_of(drill: Drill) -> Rung:
    """Return the values of a drill that vary within its exercise."""
    silence = drill.clicks.silence
    silent = 0
    if isinstance(silence, FixedSilence):
        silent = silence.silent
    elif isinstance(silence, GrowingSilence):
        silent = silence.max
    elif isinstance(silence, RandomSilence):
        silent = silence.longest
    return Rung(drill.tempo.bpm, silent, drill.part.grid)


def _same(drill: Drill) -> dict[str, Any]:
    """Return what the drill says beyond the defaults, without what does not make it another one."""
    plain = drill.model_dump(mode="json", exclude_defaults=True, exclude={"giusto", "name", "tempo"})
    if drill.cycle.grouping == (drill.cycle.beats,):
        plain["cycle"].pop("groups", None)
    if isinstance(drill.clicks.silence, RandomSilence):
        del plain["clicks"]["silence"]["seed"]
    slots = [Fraction(slot, drill.part.grid) for slot in range(drill.cycle.beats * drill.part.grid)]
    if plain["part"].get("play") == [position.write(slot) for slot in slots]:
        del plain["part"]["play"]  # every slot by name is the grid
    return plain


def _without_lengths(plain: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in plain.items() if name not in LENGTHS}


def _digest(plain: dict[str, Any]) -> str:
    return VERSION + sha256(json.dumps(plain, sort_keys=True).encode()).hexdigest()[:DIGITS]
