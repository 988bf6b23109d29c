"""What a note's source is called: a key, a pad of a kit, a note of a keyboard, by the player's own names first."""

from __future__ import annotations

import re

from studio.hearing.models import Ear

OWN = re.compile(r"\s*(\d{1,3})\s+([^,]{1,24})")
MOST_OWN = 24  # ours: pads with names of their own
HIGHEST = 127
WORDS = {"f": "the F key", "j": "the J key", "space": "Space", "touch": "touch", "mouse": "the mouse", "pen": "the pen"}
WORDS |= {"microphone": "other sounds"}
# Percussion on channel 10 by General MIDI 1 (MIDI Manufacturers Association 1991, from memory).
KIT = {
    35: "bass drum 2",
    36: "bass drum",
    37: "side stick",
    38: "snare",
    39: "hand clap",
    40: "snare 2",
    41: "low floor tom",
    42: "closed hat",
    43: "high floor tom",
    44: "pedal hat",
    45: "low tom",
    46: "open hat",
    47: "low-mid tom",
    48: "high-mid tom",
    49: "crash",
    50: "high tom",
    51: "ride",
    52: "china",
    53: "ride bell",
    54: "tambourine",
    55: "splash",
    56: "cowbell",
    57: "crash 2",
    58: "vibraslap",
    59: "ride 2",
    60: "high bongo",
    61: "low bongo",
    62: "muted high conga",
    63: "open high conga",
    64: "low conga",
    65: "high timbale",
    66: "low timbale",
    67: "high agogo",
    68: "low agogo",
    69: "cabasa",
    70: "maracas",
    75: "claves",
    76: "high wood block",
    77: "low wood block",
    80: "muted triangle",
    81: "open triangle",
}


def pad_name(ear: Ear, source: str) -> str:
    """Return what a source of notes is called.

    Examples
    --------
    >>> pad_name(Ear(pad_names={"40": "left"}), "drum:38"), pad_name(Ear(pad_names={"40": "left"}), "note:40")
    ('snare', 'left')
    """
    kind, _, number = source.partition(":")
    number, _, device = number.partition("/")
    if kind not in ("note", "drum") or not number.isdecimal():
        return WORDS.get(source, source)
    named = ear.pad_names.get(number) or (KIT.get(int(number)) if kind == "drum" else None)
    name = named or f"{'pad' if kind == 'drum' else 'note'} {number}"
    return f"{name}, instrument {device}" if device else name


def names_of(text: str) -> dict[str, str]:
    """Return names of pads as they are written: ``38 left stick, 40 right stick``.

    Raises
    ------
    ValueError
        Where a piece is no number of a note with its name.
    """
    found: dict[str, str] = {}
    for piece in filter(str.strip, text.split(",")):
        told = OWN.fullmatch(piece)
        if not told or int(told[1]) > HIGHEST:
            raise ValueError(f"“{piece.strip()[:40]}” is no note and its name, such as 38 left stick")
        found[str(int(told[1]))] = told[2].strip()
    if len(found) > MOST_OWN:
        raise ValueError(f"{len(found)} pads have names, allowed are {MOST_OWN}")
    return found


def written(names: dict[str, str]) -> str:
    """Return names of pads as they are written."""
    return ", ".join(f"{number} {name}" for number, name in names.items())
