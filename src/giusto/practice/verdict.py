"""The one verdict on a take: what most of its silences came to, and the tempo that was held alone."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from giusto.drill import Drill
from giusto.figures.silence import SilenceReading, held_limit_ms, mean_return
from giusto.practice.finding import NO_VERDICT, Finding
from giusto.ranges import Range, rounded
from giusto.reading import Reading
from giusto.tempo import SECONDS_PER_MINUTE

VerdictCode = Literal[
    "held", "dragged", "rushed", "uneven", "jumped", "edge", "slipped", "too-few", "no-silence"
]  # by the contract of advice/1
SIDES: dict[str, VerdictCode] = {"late": "dragged", "early": "rushed"}
FEWEST_TOGETHER = 4  # ours: fewer returns are told one by one
LEANS: dict[str, VerdictCode] = {"dragging": "dragged", "rushing": "rushed"}


@dataclass(frozen=True, slots=True)
class Verdict:
    """What a take's silences came to.

    Attributes
    ----------
    code : str
        ``held``; ``dragged`` or ``rushed``, by most silences or by the lean that all share; ``uneven``, both
        ways; ``jumped``, left its place at once and kept the tempo; ``edge``, too close to the limit to call;
        ``slipped`` by whole beats; ``too-few`` notes; ``no-silence`` in the drill.
    silences, of : int
        How many silences show it, of how many that can be read.
    """

    code: VerdictCode
    silences: int
    of: int


@dataclass(frozen=True, slots=True)
class TempoAlone:
    """The tempo that a player keeps alone: the lean that silences share, as beats a minute.

    Attributes
    ----------
    asked_bpm : float
        The tempo asked; where it changes, its mean over the silences.
    bpm : float
    ci95_bpm : (float, float)
    """

    asked_bpm: float
    bpm: float
    ci95_bpm: Range


def verdict_of(reading: Reading, played: Sequence[Finding] = ()) -> Verdict:
    """Return the verdict on a take.

    Parameters
    ----------
    reading : Reading
    played : sequence of Finding
        What was played otherwise than asked; another part makes no verdict.

    Notes
    -----
    What the notes can't tell comes first, whole beats lost next. All held is held, whatever the lean. A
    lean that is sure decides where most silences don't, then returns that are surely on one side together;
    else the most frequent outcome, the graver of two that are as frequent.
    """
    count: Counter[str] = Counter(silence.outcome for silence in reading.silences)
    read = len(reading.silences) - count["unreadable"]
    another = any(finding.code in NO_VERDICT for finding in played)
    if another or not reading.heard.n or (reading.silences and not read):
        return Verdict("too-few", 0, len(reading.silences))
    if not read:
        return Verdict("no-silence", 0, 0)
    if slipped := sum(bool(silence.slip_beats) for silence in reading.silences):
        return Verdict("slipped", slipped, read)
    if count["held"] * 2 > read:
        return Verdict("held", count["held"], read)
    for outcome, code in SIDES.items():
        if count[outcome] * 2 > read:
            return Verdict("jumped" if _at_once(reading) else code, count[outcome], read)
    if count["late"] and count["early"]:
        return Verdict("uneven", count["late"] + count["early"], read)
    if reading.tendency and reading.tendency.verdict in LEANS:
        return _leaning(reading, read)
    return _together(reading, read) or _most(count, read)


def _at_once(reading: Reading) -> bool:
    return bool(reading.course and reading.course.way == "at once")


def _leaning(reading: Reading, read: int) -> Verdict:
    """Return the verdict by the lean that silences share, with those whose return lies on its side."""
    code = LEANS[reading.tendency.verdict] if reading.tendency else "edge"
    late = code == "dragged"
    on_side = sum(s.return_ms is not None and (s.return_ms > 0) == late for s in reading.silences)
    return Verdict("jumped" if _at_once(reading) else code, on_side, read)


def _together(reading: Reading, read: int) -> Verdict | None:
    """Return the verdict by returns that are surely on one side together, most of them past the limit by themselves."""
    if read < FEWEST_TOGETHER:
        return None
    _, (low, high) = mean_return(reading.silences)
    late = low > 0
    if not late and high >= 0:
        return None
    past = sum(
        s.return_ms is not None and (s.return_ms if late else -s.return_ms) > held_limit_ms(_bpm(s))
        for s in reading.silences
    )
    if past * 2 <= read:
        return None
    return Verdict("jumped" if _at_once(reading) else "dragged" if late else "rushed", past, read)


def _bpm(silence: SilenceReading) -> float:
    return SECONDS_PER_MINUTE * silence.beats / (silence.end_s - silence.start_s)


def _most(count: Counter[str], read: int) -> Verdict:
    codes: tuple[tuple[str, VerdictCode], ...] = (
        ("late", "dragged"),
        ("early", "rushed"),
        ("edge", "edge"),
        ("held", "held"),
    )
    outcome, code = max(codes, key=lambda pair: count[pair[0]])
    return Verdict(code, count[outcome], read)


def tempo_alone(drill: Drill, reading: Reading) -> TempoAlone | None:
    """Return the tempo kept alone, with its range; None where no silence can be read.

    Notes
    -----
    It is the lean between clicks, which a player who comes home with every click has too, though the
    drift from return to return is then next to nothing.
    """
    if reading.tendency is None:
        return None
    asked = drill.tempo.bpm
    if drill.tempo.steps:
        read = [silence for silence in reading.silences if silence.drift_ms is not None]
        asked = SECONDS_PER_MINUTE * sum(s.beats for s in read) / sum(s.end_s - s.start_s for s in read)
    low, high = reading.tendency.ci95_percent
    return TempoAlone(
        asked_bpm=round(asked, 3),
        bpm=round(asked * (1 + reading.tendency.tempo_percent / 100), 3),
        ci95_bpm=rounded((asked * (1 + low / 100), asked * (1 + high / 100))),
    )
