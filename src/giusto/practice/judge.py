"""The judge: verdict, tempo, findings and what to play next, from one reading and the takes before it.

All that is said of a take comes from here, so that no part of a page can contradict another. It is also
``advice/2``, the file of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from functools import reduce
from typing import Any

from giusto.figures.held import returns_of_take
from giusto.practice.advice import Advice, Earlier, advise
from giusto.practice.clean import LIMITS, Cleanness, Limits, Margins, cleanness, margins
from giusto.practice.finding import Finding
from giusto.practice.findings import findings
from giusto.practice.verdict import Kind, TempoAlone, Verdict, kind_of, tempo_alone, verdict_of
from giusto.reading import Reading
from giusto.returns.drift import NONE, Returns, joined
from giusto.schedule import Schedule


@dataclass(frozen=True, slots=True)
class Judgement:
    """All that is said of a take.

    Attributes
    ----------
    kind : str
        ``silences``, ``throughout``, ``free`` or ``passage``.
    verdict : Verdict
    tempo : TempoAlone or None
    findings : tuple of Finding
        The most telling first; a lean that only several takes show leads.
    clean : Cleanness
    advice : Advice
    """

    kind: Kind
    verdict: Verdict
    tempo: TempoAlone | None
    findings: tuple[Finding, ...]
    clean: Cleanness
    advice: Advice

    @property
    def is_clean(self) -> bool | None:
        """Whether it is told to be clean; None where it is open, or can't be said."""
        return self.clean.is_clean

    def plain(self) -> dict[str, Any]:
        """Return the judgement as ``advice/2``, as what ``json.dumps`` takes."""
        proposed, tempo = self.advice.proposed, self.tempo
        ways = [proposed, *(step for step in self.advice.choices if step != proposed)]
        return {
            "giusto": "advice/2",
            "kind": self.kind,
            "verdict": _told(self.verdict),
            "tempo": None if tempo is None else {"bpm": tempo.bpm, "ci95_bpm": list(tempo.ci95_bpm)},
            "clean": asdict(self.clean),
            "findings": [asdict(finding) for finding in self.findings],
            "next": [{"way": step.way, "change": step.change, "drill": step.drill.plain()} for step in ways],
        }


def _told(verdict: Verdict) -> dict[str, Any]:
    """Return a verdict with the figures of its kind."""
    always = ("code", "silences", "of")
    return {name: value for name, value in asdict(verdict).items() if name in always or value is not None}


def earlier(schedule: Schedule, reading: Reading, limits: Limits = LIMITS, *, before: Returns = NONE) -> Earlier:
    """Return what a take is to those that come after it."""
    clean = cleanness(margins(schedule, reading, before=before), limits).is_clean
    return Earlier(schedule.drill, clean, reading.tendency, returns_of_take(reading.silences))


def judge(
    schedule: Schedule,
    reading: Reading,
    *,
    before: Sequence[Earlier] = (),
    known: Returns | None = None,
    shown: Margins | None = None,
    limits: Limits = LIMITS,
) -> Judgement:
    """Return all that is said of a take.

    Parameters
    ----------
    schedule : Schedule
        Of the drill as played.
    reading : Reading
    before : sequence of Earlier
        Earlier takes of the exercise, oldest first.
    known : Returns, optional
        Of earlier takes near the tempo, of whatever exercise; those of ``before`` where none are given.
    shown : Margins, optional
        What the take was found to show when it was read; found anew where it isn't given.
    limits : Limits
        What counts as clean.
    """
    if known is None:
        known = reduce(joined, (take.returns for take in before), NONE)
    found = findings(schedule, reading)
    verdict = verdict_of(schedule, reading, found)
    clean = cleanness(shown or margins(schedule, reading, before=known), limits)
    now = Earlier(schedule.drill, clean.is_clean, reading.tendency, returns_of_take(reading.silences))
    advice = advise(schedule.drill, verdict, found, now=now, before=before, known=known)
    told = (advice.pooled, *found) if advice.pooled else tuple(found)
    return Judgement(kind_of(schedule, reading), verdict, tempo_alone(schedule.drill, reading), told, clean, advice)
