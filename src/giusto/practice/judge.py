"""The judge: verdict, tempo, findings and what to play next, from one reading and the takes before it.

All that is said of a take comes from here, so that no part of a page can contradict another. It is also
``advice/1``, the file of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from giusto.practice.advice import Advice, Earlier, advise
from giusto.practice.clean import LIMITS, Limits, is_clean, margins
from giusto.practice.finding import Finding
from giusto.practice.findings import findings
from giusto.practice.verdict import TempoAlone, Verdict, tempo_alone, verdict_of
from giusto.reading import Reading
from giusto.schedule import Schedule


@dataclass(frozen=True, slots=True)
class Judgement:
    """All that is said of a take.

    Attributes
    ----------
    verdict : Verdict
    tempo : TempoAlone or None
    findings : tuple of Finding
        The most telling first; a lean that only several takes show leads.
    is_clean : bool or None
    advice : Advice
    """

    verdict: Verdict
    tempo: TempoAlone | None
    findings: tuple[Finding, ...]
    is_clean: bool | None
    advice: Advice

    def plain(self) -> dict[str, Any]:
        """Return the judgement as ``advice/1``, as what ``json.dumps`` takes."""
        proposed, choices = self.advice.proposed, self.advice.choices
        tempo = self.tempo
        return {
            "giusto": "advice/1",
            "verdict": asdict(self.verdict),
            "tempo": None if tempo is None else {"bpm": tempo.bpm, "ci95_bpm": list(tempo.ci95_bpm)},
            "clean": self.is_clean,
            "findings": [asdict(finding) for finding in self.findings],
            "next": [
                {"way": "proposed", "change": proposed.change, "as": proposed.way, "drill": proposed.drill.plain()},
                *({"way": step.way, "change": step.change, "drill": step.drill.plain()} for step in choices),
            ],
        }


def earlier(schedule: Schedule, reading: Reading, limits: Limits = LIMITS) -> Earlier:
    """Return what a take is to those that come after it."""
    return Earlier(schedule.drill, is_clean(margins(schedule, reading), limits), reading.tendency)


def judge(
    schedule: Schedule, reading: Reading, *, before: Sequence[Earlier] = (), limits: Limits = LIMITS
) -> Judgement:
    """Return all that is said of a take.

    Parameters
    ----------
    schedule : Schedule
        Of the drill as played.
    reading : Reading
    before : sequence of Earlier
        Earlier takes of the exercise, oldest first.
    limits : Limits
        What counts as clean.
    """
    found = findings(schedule, reading)
    verdict = verdict_of(reading, found)
    now = earlier(schedule, reading, limits)
    advice = advise(schedule.drill, verdict, found, now=now, before=before)
    told = (advice.pooled, *found) if advice.pooled else tuple(found)
    return Judgement(verdict, tempo_alone(schedule.drill, reading), told, now.is_clean, advice)
