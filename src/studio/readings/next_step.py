"""Findings and steps, brought to what the templates say and link to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.urls import reverse

from giusto.advice import Advice, Step
from giusto.drill import Drill, FixedSilence, GrowingSilence
from giusto.findings import Finding
from studio.drills.link import query, words_of
from studio.drills.note_words import note_word
from studio.takes.models import Take

KEYS = {"again": "r", "easier": "e", "harder": "h"}
FEW_TRIES = 3  # with fewer takes of a drill, advice is a try


@dataclass(frozen=True, slots=True)
class Choice:
    """A drill to play next: what it is, its address, its key."""

    way: str
    lever: str
    drill: Drill
    notes: str
    silent: int | None
    url: str
    key: str


@dataclass(frozen=True, slots=True)
class Said:
    """What the advice goes by, and the steps: the proposed one first."""

    first: Finding | None
    others: list[Finding]
    proposed: Choice
    choices: list[Choice]
    notes: str
    is_a_try: bool


def said(advice: Advice, take: Take) -> Said:
    """Return the advice for the templates."""
    choices = [_choice(step, take) for step in advice.steps]
    proposed = next(choice for choice in choices if choice.way == advice.proposed)
    drill = advice.steps[0].drill
    return Said(
        first=advice.findings[0] if advice.findings else None,
        others=advice.findings[1:],
        proposed=proposed,
        choices=[choice for choice in choices if choice is not proposed],
        notes=note_word(drill.tempo.beat, drill.part.grid),
        is_a_try=advice.tries < FEW_TRIES,
    )


def _choice(step: Step, take: Take) -> Choice:
    drill, silence = step.drill, step.drill.clicks.silence
    return Choice(
        way=step.way,
        lever=step.lever,
        drill=drill,
        notes=note_word(drill.tempo.beat, drill.part.grid),
        silent=silence.silent if isinstance(silence, FixedSilence) else _most(silence),
        url=f"{reverse('takes:play')}?{_query(step, take)}",
        key=KEYS[step.way],
    )


def _most(silence: Any) -> int | None:
    return silence.max if isinstance(silence, GrowingSilence) else None


def _query(step: Step, take: Take) -> str:
    """Return the words of a step's drill; the same again is the take's own, simulated players included."""
    if step.way == "again":
        return urlencode({"again": str(take.pk)})
    by = {"by": "simulated"} if take.simulated and not take.is_demo else {}
    return query({**words_of(step.drill), **by})
