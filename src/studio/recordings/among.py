"""Which drills a recording may be of that was dropped without saying: taken away, on Today, or lately played."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.utils import timezone

from giusto.drill import Drill, validate
from giusto.drill.identity import drill_key
from giusto.errors import GiustoError
from studio.accounts.models import Player
from studio.drills.sentence.codec import query, words_of
from studio.drills.sentence.prose import tempo_words, title
from studio.takes.models import Take

MOST = 10  # ours: as many are set against a recording in half of its length
LATELY = timedelta(days=28)


@dataclass(frozen=True, slots=True)
class Candidate:
    """A drill that a recording may be of.

    Attributes
    ----------
    drill : Drill
    origin : str
        As of a sentence.
    why : str
        Why it is asked about, such as ``lately played``.
    """

    drill: Drill
    origin: str
    why: str

    def plain(self) -> dict[str, Any]:
        """Return what an upload keeps of it."""
        words = query(words_of(self.drill), **({"drill": self.origin} if self.origin else {}))
        named = {"name": self.drill.name or title(self.drill), "tempo": tempo_words(self.drill)}
        return {"drill": self.drill.plain(), "origin": self.origin, "words": words, "why": self.why, **named}


# Whoever knows of drills that a player is about to play adds a way to ask for them.
SOURCES: list[Callable[[Player], Iterable[Candidate]]] = []


def among(player: Player, taken_away: Iterable[Candidate] = ()) -> list[dict[str, Any]]:
    """Return what a recording may be of: at most ``MOST`` drills, each once, what was taken away first."""
    found: dict[str, Candidate] = {}
    for candidate in _all(player, taken_away):
        found.setdefault(drill_key(candidate.drill) + str(candidate.drill.tempo.bpm), candidate)
        if len(found) == MOST:
            break
    return [candidate.plain() for candidate in found.values()]


def _all(player: Player, taken_away: Iterable[Candidate]) -> Iterator[Candidate]:
    yield from taken_away
    for source in SOURCES:
        yield from source(player)
    takes = Take.objects.visible_to(player).filter(started_at__gte=timezone.now() - LATELY).order_by("-started_at")
    for drill in takes.values_list("drill", flat=True)[: 10 * MOST]:
        try:
            yield Candidate(validate(drill), "", "lately played")
        except GiustoError:  # a drill of a version that was never ours
            continue
