"""How long a silence is held, in a line: for the page of today."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from giusto.practice.over_takes.reaches import reach_at, tempi
from giusto.tempo import slot_ms
from studio.accounts.models import Player
from studio.reach.tested import silences_until
from studio.reach.words import beats_words, bound_of, range_words, seconds_words


@dataclass(frozen=True, slots=True)
class LastFigure:
    """A figure: its value, what it rests on."""

    value: str
    rests_on: str


def last_held(player: Player, now: datetime) -> LastFigure | None:
    """Return how long a silence is held, near the tempo of the latest; None until it is known."""
    known = silences_until(player, now)
    for bpm in tempi(known)[:1]:
        found = reach_at(known, bpm, now).reach
        if told := bound_of(found):
            bound, beats = told
            value = f"{bound}{beats_words(beats)} alone near {bpm:.0f}".capitalize()
            rests_on = f"{seconds_words(beats, slot_ms(bpm, 1) / 1000)}; {range_words(found)}"
            return LastFigure(value, rests_on)
    return None
