"""The one verdict on a take, of its kind: silences, the click throughout, no click; and the tempo held alone."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import sqrt
from typing import Literal, cast

from scipy.special import chdtri

from giusto.drill import Drill
from giusto.drill.file import Segment
from giusto.figures.silence import SilenceReading, held_limit_ms, mean_return
from giusto.figures.tempo_thread import TempoThread
from giusto.practice.clean import INDEPENDENT_SHARE
from giusto.practice.finding import NO_VERDICT, Finding
from giusto.ranges import COVERED, Range, rounded
from giusto.reading import Reading
from giusto.schedule import Schedule
from giusto.tempo import SECONDS_PER_MINUTE

Kind = Literal["silences", "throughout", "free", "passage"]  # by the contract of advice/2
VerdictCode = Literal[
    "held", "dragged", "rushed", "uneven", "jumped", "edge", "slipped",
    "together", "before", "after", "loose",
    "kept", "slowed", "quickened", "wandered",
    "crushed", "stretched",
    "too-few", "own-tempo", "beat-off", "not-this-drill", "other-part",
]  # fmt: skip
SIDES: dict[str, VerdictCode] = {"late": "dragged", "early": "rushed"}
FEWEST_TOGETHER = 4  # ours: fewer returns are told one by one
LEANS: dict[str, VerdictCode] = {"dragging": "dragged", "rushing": "rushed"}
TEMPOS: dict[str, VerdictCode] = {"steady": "kept", "slower": "slowed", "faster": "quickened"}
ASIDE_MS = 10.0  # ours: a place surely further from the click lies before or after it
WANDERS = 0.04  # ours: of the tempo; parts surely that far apart wandered, though the end is as the beginning


@dataclass(frozen=True, slots=True)
class Verdict:
    """What a take came to.

    Attributes
    ----------
    code : str
        Of silences: ``held``; ``dragged`` or ``rushed``, by most silences or by the lean that all share; ``uneven``,
        both ways; ``jumped``, left its place at once and kept the tempo; ``edge``, too close to the limit to call;
        ``slipped`` by whole beats. With the click throughout: ``together`` with it, ``before`` or ``after`` it,
        ``loose``. Without a click: ``kept``, ``slowed``, ``quickened``, ``wandered``. Where nothing else is sure, a
        rhythm: one part ``crushed`` or ``stretched``. ``too-few`` notes; or what was played instead: ``own-tempo``,
        ``beat-off``, ``not-this-drill``, ``other-part``.
    silences, of : int
        How many silences show it, of how many that can be read.
    place_ms, place_ci95_ms, spread_ms, spread_ci95_ms
        With the click throughout.
    from_bpm, to_bpm : float or None
        Without a click: the tempo of the start and of the last part; of an own tempo, both the same.
    where : str or None
        Of a rhythm: the slots, as ``1/2 to 1``.
    """

    code: VerdictCode
    silences: int = 0
    of: int = 0
    place_ms: float | None = None
    place_ci95_ms: Range | None = None
    spread_ms: float | None = None
    spread_ci95_ms: Range | None = None
    from_bpm: float | None = None
    to_bpm: float | None = None
    where: str | None = None


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


def kind_of(schedule: Schedule, reading: Reading) -> Kind:
    """Return which kind of take it is, by its drill: each kind has a verdict of its own."""
    has_silences = any(silence.return_ms is not None for silence in reading.silences)
    if not schedule.drill.clicks.on or (reading.tempo is not None and not has_silences):
        return "free"
    if any(isinstance(one, Segment) for one in schedule.drill.part.play):
        return "passage"
    return "silences" if schedule.silences else "throughout"


def verdict_of(schedule: Schedule, reading: Reading, found: Sequence[Finding] = ()) -> Verdict:
    """Return the verdict on a take.

    Parameters
    ----------
    schedule : Schedule
        Of the drill as played.
    reading : Reading
    found : sequence of Finding
        What was played otherwise than asked, which makes no verdict of time, and the rhythm.

    Notes
    -----
    What was played instead comes first, then what the notes can't tell. A free take is told by its tempo; silences as
    ``_of_silences`` has it; without any, the click is there throughout, and place and spread are told.
    """
    another = next((finding for finding in found if finding.code in NO_VERDICT), None)
    if another:
        bpm = another.size if another.code == "own-tempo" else None
        return Verdict(cast(VerdictCode, another.code), of=len(reading.silences), from_bpm=bpm, to_bpm=bpm)
    kind = kind_of(schedule, reading)
    if kind == "free":
        return _of_tempo(reading.tempo)
    if not reading.heard.n or (reading.silences and not _read(reading)):
        return Verdict("too-few", of=len(reading.silences))
    told = _of_silences(reading) if _read(reading) else _with_click(reading, found)
    rhythm = next((finding for finding in found if finding.code in ("crushed", "stretched")), None)
    if rhythm and told.code in ("edge", "together"):
        return replace(told, code=cast(VerdictCode, rhythm.code), where=rhythm.where)
    return told


def _read(reading: Reading) -> int:
    return sum(silence.outcome != "unreadable" for silence in reading.silences)


def _of_tempo(thread: TempoThread | None) -> Verdict:
    """Return the verdict on a take without a click: its tempo at the start, and at the end."""
    if thread is None:
        return Verdict("too-few")
    code = TEMPOS[thread.verdict]
    lows, highs = zip(*(part.ci95_bpm for part in thread.sections), strict=True)
    if code == "kept" and max(lows) - min(highs) > WANDERS * thread.asked_bpm:
        code = "wandered"
    return Verdict(code, from_bpm=thread.start.bpm, to_bpm=thread.sections[-1].bpm)


def _with_click(reading: Reading, found: Sequence[Finding]) -> Verdict:
    """Return the verdict on a take whose click is there throughout: where its notes lie, and how wide."""
    heard = reading.heard
    if heard.mean_error_ms is None or heard.ci95_ms is None or heard.sd_ms is None:
        return Verdict("too-few")
    low, high = heard.ci95_ms
    code: VerdictCode = "before" if high < -ASIDE_MS else "after" if low > ASIDE_MS else "together"
    if any(finding.code == "spread" and finding.where == "click" for finding in found):
        code = "loose"
    spread = spread_range(heard.sd_ms, heard.n * INDEPENDENT_SHARE)
    return Verdict(
        code,
        place_ms=heard.mean_error_ms,
        place_ci95_ms=heard.ci95_ms,
        spread_ms=heard.sd_ms,
        spread_ci95_ms=spread,
    )


def spread_range(sd: float, n: float) -> Range:
    """Return the 95 % range of a standard deviation from ``n`` independent values (by χ²).

    Examples
    --------
    >>> spread_range(10.0, 10)
    (6.878, 18.256)
    """
    free = max(n - 1, 1.0)
    low, high = (sqrt(free / float(chdtri(free, above))) for above in ((1 - COVERED) / 2, (1 + COVERED) / 2))
    return rounded((sd * low, sd * high))


def _of_silences(reading: Reading) -> Verdict:
    """Return the verdict on silences.

    Whole beats lost come first. All held is held, whatever the lean. A lean that is sure decides where most silences
    don't, then returns that are surely on one side together; else the most frequent outcome, the graver of two that
    are as frequent.
    """
    count: Counter[str] = Counter(silence.outcome for silence in reading.silences)
    read = _read(reading)
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
