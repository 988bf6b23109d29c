"""What to play next, brought to what the templates say and link to."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse

from giusto.drill import Drill
from giusto.drill.changes import more_cycles
from giusto.drill.file import FixedSilence, GrowingSilence
from giusto.drill.identity import drill_key
from giusto.practice.advice import Proposal
from giusto.practice.finding import NOT_AS_ASKED, Finding
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
class Neighbour:
    """What stands beside the bar: again, easier, harder, each always in its place, each another take.

    Attributes
    ----------
    name, key : str
    choice : Choice
    held_back : str
        Why it is written in quiet ink; ``""`` where it is not.
    """

    name: str
    key: str
    choice: Choice
    held_back: str = ""


@dataclass(frozen=True, slots=True)
class Said:
    """What the advice goes by, the step that it proposes, and what stands beside the bar."""

    first: ToldFinding | None
    others: list[ToldFinding]
    proposed: Choice
    neighbours: list[Neighbour]
    notes: str
    is_a_try: bool
    is_again: bool


def said(judgement: Judgement, take: Take, drill: Drill, bar: Drill | None) -> Said:
    """Return what is said of a take's next step, for the templates.

    Parameters
    ----------
    judgement : Judgement
    take : Take
    drill : Drill
        As played.
    bar : Drill or None
        What a plan's or a ladder's step plays, where that leads and not what is proposed.
    """
    proposed = judgement.advice.proposed
    leads = bar is not None
    told = [ToldFinding(finding) for finding in judgement.findings]
    return Said(
        first=told[0] if told else None,
        others=told[1:],
        proposed=_choice(proposed, take),
        neighbours=list(_neighbours(judgement, take, drill, bar or proposed.drill, leads=leads)),
        notes=note_word(drill.tempo.beat, drill.part.grid),
        is_a_try=judgement.advice.tries < FEW_TRIES,
        is_again=drill_key(bar or proposed.drill) == drill_key(drill),
    )


def _neighbours(judgement: Judgement, take: Take, drill: Drill, bar: Drill, *, leads: bool) -> Iterator[Neighbour]:
    advice = judgement.advice
    is_other = any(finding.code in NOT_AS_ASKED for finding in judgement.findings)
    if drill_key(bar) != drill_key(drill):
        yield Neighbour("Again", "r", _choice(Proposal("again", "", drill), take))
    elif not leads and (longer := more_cycles(drill)):
        yield Neighbour("Longer", "l", _choice(Proposal("again", "more_cycles", longer), take))
    for way, name in (("easier", "Easier"), ("harder", "Harder")):
        own = next((step for step in advice.choices if step.way == way), None)
        step = advice.beside if not leads and advice.proposed.way == way else own
        if step and drill_key(step.drill) != drill_key(bar):
            held_back = "once it was played as asked" if is_other else ""
            if way == "harder" and not judgement.is_clean:
                held_back = "once it is held"
            yield Neighbour(name, KEYS[way], _choice(step, take), held_back)


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
