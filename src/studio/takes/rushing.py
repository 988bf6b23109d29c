"""Takes for a rush map, and the map in a sentence."""

from __future__ import annotations

from django.db.models import Q

from giusto.missing import Missing
from giusto.practice.rush import Lean
from giusto.reading.format import Match, Missed
from studio.accounts.models import Player
from studio.sheet.words import signed_ms
from studio.takes.models import Take
from studio.words import joined, number

MOST_TAKES, MOST_TOLD = 24, 3  # ours: the newest takes, the largest leans


def newest_read(player: Player, which: Q) -> list[Take]:
    """Return a player's newest takes that could be read; of simulated ones only the demo's."""
    takes = Take.objects.telling_of(player).filter(which).read().select_related("reading", "exercise")
    takes = takes.only("drill", "slots", "beats", "reading__spec", "exercise__whole")
    return list(takes.order_by("-started_at")[:MOST_TAKES])


def notes_asked(take: Take) -> list[Match | Missed]:
    """Return the asked notes of a take's reading, without the whole of it being made; none for another version's."""
    try:
        spec = take.reading.spec
        return [*(Match(**one) for one in spec["matches"]), *(Missed(**one) for one in spec["missed"])]
    except (KeyError, TypeError):
        return []


def leaning_words(found: list[Lean] | Missing, *, cycle: str = "bar") -> str:
    """Return a rush map in a sentence."""
    if isinstance(found, Missing):
        return f"Where takes lean again and again shows after three takes of the same {cycle}s."
    leaning = sorted((one for one in found if one.leans), key=lambda one: -abs(one.gain_ms))
    if not leaning:
        return f"No place leans by more than chance: {number(len(found))} places were looked at."
    told = [f"into {cycle} {one.bar}, beat {one.position}: {signed_ms(one.gain_ms)}" for one in leaning[:MOST_TOLD]]
    count = f"{number(len(leaning)).capitalize()} of {len(found)} places"
    verb = "leans" if len(leaning) == 1 else "lean"
    return f"{count} {verb} by more than chance, {joined(told)}."
