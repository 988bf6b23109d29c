"""Drills whose click was taken away lately as a file: what is recorded elsewhere is likely one of them."""

from __future__ import annotations

from collections.abc import Iterator

from django.http import QueryDict

from giusto.drill import Drill
from studio.accounts.requests import PlayerRequest
from studio.drills.origin import origin_of
from studio.drills.sentence.form import SentenceForm

REMEMBERED = 6
LONGEST = 2000  # letters of an address
TAKEN = "taken-away"  # in the session


def remember_taken(request: PlayerRequest, words: str) -> None:
    """Note that the click of a sentence was taken away."""
    if len(words) <= LONGEST:
        others = [one for one in request.session.get(TAKEN, []) if one != words]
        request.session[TAKEN] = [words, *others][:REMEMBERED]


def taken_away(request: PlayerRequest) -> Iterator[tuple[Drill, str]]:
    """Yield drills whose click was taken away, the latest first, with their origins."""
    for words in request.session.get(TAKEN, []):
        asked = QueryDict(words)
        sentence = SentenceForm(asked, origin=origin_of(request.user, asked.get("drill")))
        if sentence.is_valid():
            yield sentence.made, sentence.origin.key
