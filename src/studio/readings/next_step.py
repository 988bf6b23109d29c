"""What to play next, brought to what the templates say and link to."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse

from giusto.drill import Drill
from giusto.drill.file import FixedSilence, GrowingSilence
from giusto.practice.advice import Proposal
from giusto.practice.finding import Finding
from giusto.practice.judge import Judgement
from studio.drills.draw import anew
from studio.drills.sentence.codec import query, words_of
from studio.drills.sentence.note_words import note_word
from studio.takes.models import Take

KEYS = {"again": "r", "easier": "e", "harder": "h"}
FEW_TRIES = 3  # with fewer takes of an exercise, advice is a try


@dataclass(frozen=True, slots=True)
class Choice:
    """A drill to play next: what it is, its address, its keys; whether its silence is the first after none."""

    way: str
    change: str
    drill: Drill
    notes: str
    silent: int | None
    is_first: bool
    url: str
    key: str

    @property
    def step(self) -> str:
        """The template that says what it is."""
        return f"readings/steps/{self.change or 'again'}.html"


@dataclass(frozen=True, slots=True)
class ToldFinding:
    """A finding, and the template that tells it."""

    finding: Finding

    @property
    def template(self) -> str:
        """The template that says it."""
        return f"readings/findings/{self.finding.code}.html"


@dataclass(frozen=True, slots=True)
class Said:
    """What the advice goes by, and the steps: the proposed one first."""

    first: ToldFinding | None
    others: list[ToldFinding]
    proposed: Choice
    choices: list[Choice]
    notes: str
    is_a_try: bool


def said(judgement: Judgement, take: Take) -> Said:
    """Return what is said of a take's next step, for the templates."""
    advice = judgement.advice
    proposed = _choice(advice.proposed, take)
    drill = advice.choices[0].drill
    told = [ToldFinding(finding) for finding in judgement.findings]
    others = [_choice(step, take) for step in advice.choices if step != advice.proposed]
    return Said(
        first=told[0] if told else None,
        others=told[1:],
        proposed=proposed,
        choices=others,
        notes=note_word(drill.tempo.beat, drill.part.grid),
        is_a_try=advice.tries < FEW_TRIES,
    )


def _choice(step: Proposal, take: Take) -> Choice:
    drill, silence = step.drill, step.drill.clicks.silence
    silent = silence.silent if isinstance(silence, FixedSilence) else None
    return Choice(
        way=step.way,
        change=step.change,
        drill=drill,
        notes=note_word(drill.tempo.beat, drill.part.grid),
        silent=silence.max if isinstance(silence, GrowingSilence) else silent,
        is_first=silence is not None and not take.drill["clicks"].get("silence"),
        url=f"{reverse('takes:play')}?{_query(step, take)}",
        key=KEYS[step.way],
    )


def _query(step: Proposal, take: Take) -> str:
    """Return the words of a step's drill; the same again is the take's own, simulated players included."""
    if not step.change:
        return urlencode({"again": str(take.pk)})
    by = {"by": "simulated"} if take.simulated and not take.player.is_demo else {}
    return query({**words_of(anew(step.drill)), **by, "drill": take.exercise.origin if take.exercise else ""})
