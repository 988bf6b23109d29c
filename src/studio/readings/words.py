"""A judgement in sentences: the verdict, the lead. No praise, no blame, nothing beyond the range."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import TypeAlias

from giusto.drill import Drill
from giusto.drill.file import FixedSilence
from giusto.figures.silence import SilenceReading
from giusto.figures.tempo_thread import TempoThread
from giusto.practice.finding import Finding
from giusto.practice.judge import Judgement
from giusto.practice.verdict import TempoAlone, Verdict
from giusto.reading import Reading
from studio.sheet.words import NBSP, half_words, lean_words, signed_ms
from studio.words import number, ordinal, times

Pieces: TypeAlias = list[tuple[str, str]]  # a text and its style, one after the other

VERBS = {"held": "held", "dragged": "dragged in", "rushed": "rushed in"}
LITTLE_MS = 30.0  # ours: a place nearer to the click is called a little off
MANY = 8  # silences; more are told as one
OUTCOMES = {"held": "held", "dragged": "late", "rushed": "early"}
# With the click throughout, and without any.
WITH_CLICK = {
    "together": "Together with the click.",
    "before": "{early}.",
    "after": "{late}.",
    "loose": "Wide about the click.",
}
FREE = {
    "kept": "You held {first}.",
    "slowed": "You slowed down.",
    "quickened": "You became faster.",
    "wandered": "Your tempo wandered, and came home.",
}
# What stands in the place of a verdict where something else was played, or nothing.
INSTEAD = {
    "own-tempo": "You kept a tempo of your own.",
    "beat-off": "You began elsewhere in the bar.",
    "not-this-drill": "This was not the drill.",
    "other-part": "You played another figure.",
    "stopped-alone": "You fell silent when the click did.",
}
SAID = WITH_CLICK | FREE | INSTEAD


@dataclass(frozen=True, slots=True)
class Sentence:
    """The words of a reading: the verdict, and pieces of the lead with their style."""

    verdict: str
    lead: Pieces
    standing: Pieces


def sentence(judgement: Judgement, reading: Reading, drill: Drill) -> Sentence:
    """Return verdict and lead of a reading, the drill as played."""
    return Sentence(
        verdict_words(judgement, reading),
        _lead(judgement, reading, drill),
        _standing(judgement, reading),
    )


def _standing(judgement: Judgement, reading: Reading) -> Pieces:
    """Return the figures of the large view, each kind of take its own."""
    verdict = judgement.verdict
    if verdict.code in WITH_CLICK and verdict.place_ms is not None and verdict.spread_ms is not None:
        place, *_ = _throughout_lead(verdict)
        return [place, (f", most within {verdict.spread_ms:.0f}{NBSP}ms", "")]
    if is_free(reading) and reading.tempo:
        return [(f"{reading.tempo.start.bpm:.1f} became ", ""), (f"{reading.tempo.sections[-1].bpm:.1f}", "strong")]
    return [*_became(judgement.tempo), *_lean_of_many(reading)]


def verdict_words(judgement: Judgement, reading: Reading) -> str:
    """Return the verdict as the first sentence of a reading."""
    verdict = judgement.verdict
    if said := SAID.get(verdict.code):
        return said.format(**_figures(verdict), **_sides(judgement))
    if verdict.code == "too-few":
        return _too_few(judgement.findings)
    if verdict.code in ("crushed", "stretched"):
        return f"Your time held; your rhythm from {verdict.where} was {verdict.code}."
    if verdict.code == "slipped":
        return _slipped(reading.silences)
    if verdict.code == "edge":
        return "Held, so far as your notes can tell." if judgement.is_clean else "Your notes can’t tell if you held it."
    if verdict.code == "uneven":
        return _uneven(reading.silences)
    if verdict.code == "jumped":
        late = reading.tendency is None or reading.tendency.tempo_percent < 0
        return f"You came in {'late' if late else 'early'} at once, and kept the tempo."
    outside = sum(silence.outcome == OUTCOMES[verdict.code] for silence in reading.silences)
    if verdict.code != "held" and outside < verdict.silences:  # by the lean that they share
        many = "again and again" if verdict.silences > 1 else "in the silence"
        return f"You {verdict.code} a little, {many}."
    return one_side(verdict, total=len(reading.silences))


def is_free(reading: Reading) -> bool:
    """Return whether a reading is of tempo alone: no silence of it can be read, and its tempo all the way can."""
    return reading.tempo is not None and not any(s.return_ms is not None for s in reading.silences)


def _figures(verdict: Verdict) -> dict[str, str]:
    """Return the figures of a verdict as its sentence takes them."""
    return {
        "first": f"{verdict.from_bpm or 0.0:.1f}",
        "last": f"{verdict.to_bpm or 0.0:.1f}",
    }


def _sides(judgement: Judgement) -> dict[str, str]:
    """Return how a place off the click is called: little only where it is, even only where the take is clean."""
    little = abs(judgement.verdict.place_ms or 0.0) < LITTLE_MS
    even = ", and even" if judgement.is_clean else ""
    return {side: f"{f'A little {side}' if little else side.capitalize()}{even}" for side in ("early", "late")}


def _tempo_lead(thread: TempoThread) -> Pieces:
    last = thread.sections[-1]
    half = (last.ci95_bpm[1] - last.ci95_bpm[0]) / 2
    asked = f" ({thread.asked_bpm:g} was asked)" if thread.asked_bpm else ""
    return [
        (f"{thread.start.bpm:.1f}", "strong"),
        (f" at first{asked}, ", ""),
        (f"{last.bpm:.1f}", "strong"),
        (f" at the end, {half_words(half)}.", ""),
    ]


def one_side(verdict: Verdict, *, total: int) -> str:
    """Return the verdict where all or most silences came out alike.

    Parameters
    ----------
    verdict : Verdict
    total : int
        Silences of the take, those that can't be read included.

    Examples
    --------
    >>> one_side(Verdict("dragged", 3, 4), total=4)
    'You dragged in three silences of four.'
    >>> one_side(Verdict("held", 4, 4), total=4), one_side(Verdict("held", 1, 1), total=2)
    ('You held all four silences.', 'You held the one silence that can be read.')
    """
    verb, many, of = VERBS[verdict.code], verdict.silences, verdict.of
    if many == of == total:
        if total == 1:
            return f"You {verb} the silence."
        if verdict.code == "held":
            return f"You held {'both' if total == 2 else 'all ' + number(total)} silences."
        return f"You {verb} every silence."
    if many == of == 1:
        return f"You {verb} the one silence that can be read."
    return f"You {verb} {number(many)} silence{'' if many == 1 else 's'} of {number(of)}."


def _too_few(findings: tuple[Finding, ...]) -> str:
    for finding in findings:
        if finding.code in INSTEAD:
            return INSTEAD[finding.code]
        if finding.code == "stopped-in-silence":
            return f"You stopped in the {ordinal(int(finding.where or 1))} silence."
    return "Too few notes to read."


def _uneven(silences: list[SilenceReading]) -> str:
    count = Counter(silence.outcome for silence in silences)
    lean = "slow" if count["late"] >= count["early"] else "fast"
    return f"Early {times(count['early'])}, late {times(count['late'])}: uneven, not {lean}."


def _slipped(silences: list[SilenceReading]) -> str:
    """Say what whole beats lost or gained mean, as in ``You lost a beat in the second silence``."""
    slipped = [(n, s.slip_beats) for n, s in enumerate(silences, start=1) if s.slip_beats]
    where, beats = slipped[0]
    many = "a beat" if abs(beats) == 1 else f"{number(abs(beats))} beats"
    if len(slipped) > 1:
        return f"You came back whole beats off in {number(len(slipped))} silences of {number(len(silences))}."
    place = "" if len(silences) == 1 else f" in the {ordinal(where)} silence"
    return f"You {'gained' if beats > 0 else 'lost'} {many}{place}."


def _lead(judgement: Judgement, reading: Reading, drill: Drill) -> Pieces:
    if is_free(reading) and reading.tempo:
        return _tempo_lead(reading.tempo)
    if judgement.verdict.code == "not-this-drill":
        return []  # nothing of it is told as time; the finding says why
    read = [s for s in reading.silences if s.outcome != "unreadable"]
    if judgement.verdict.code in WITH_CLICK:
        return _throughout_lead(judgement.verdict)
    if not read or judgement.tempo is None:
        return _place_lead(reading)
    pieces = [(f"{_alone(read, drill)} ", ""), *_became(judgement.tempo), (f", {_give_or_take(judgement.tempo)}", "")]
    pieces += _lean_of_many(reading)
    off = [s for s in read if s.outcome in ("early", "late")]
    if off and len(off) <= 6:
        pieces += [("; you came back ", ""), *_returns(off)]
    elif off:
        size = sum(s.return_ms or 0.0 for s in off) / len(off)
        pieces.append((f"; you came back {number(len(off))} times off your place, on average ", ""))
        pieces.append((signed_ms(size), "late" if size > 0 else "early"))
    pieces.append((f". {_exceptions(judgement.verdict, reading.silences)}", ""))
    return pieces


def _became(tempo: TempoAlone | None) -> Pieces:
    """Return the tempo asked and the one kept alone: ``96 became 95.3``."""
    if tempo is None:
        return []
    return [(f"{tempo.asked_bpm:g} became ", ""), (f"{tempo.bpm:.1f}", "strong")]


def _lean_of_many(reading: Reading) -> Pieces:
    """Return the lean in percent where there are too many silences to tell one by one."""
    if len(reading.silences) <= MANY or reading.tendency is None:
        return []
    return [(f", {lean_words(reading.tendency.tempo_percent)}", "")]


def _give_or_take(tempo: TempoAlone) -> str:
    low, high = tempo.ci95_bpm
    return half_words((high - low) / 2)


def _returns(off: list[SilenceReading]) -> Pieces:
    """Return the returns as ``44 to 71 ms late``, or one by one where they fall on both sides."""
    if len({silence.outcome for silence in off}) == 1:
        sizes = sorted({round(abs(silence.return_ms or 0.0)) for silence in off})
        span = f"{sizes[0]} to {sizes[-1]}" if len(sizes) > 1 else f"{sizes[0]}"
        return [(f"{span}{NBSP}ms {off[0].outcome}", off[0].outcome)]
    pieces: Pieces = []
    for index, silence in enumerate(off):
        pieces.append((signed_ms(silence.return_ms or 0.0), silence.outcome))
        if index < len(off) - 1:
            pieces.append((" and " if index == len(off) - 2 else ", ", ""))
    return pieces


def _throughout_lead(verdict: Verdict) -> Pieces:
    """Return place and spread with the click throughout, as figures."""
    place, spread = verdict.place_ms, verdict.spread_ms
    if place is None or verdict.place_ci95_ms is None or spread is None:
        return []
    low, high = verdict.place_ci95_ms
    style = "late" if low > 0 else "early" if high < 0 else "strong"
    return [
        (signed_ms(place).capitalize(), style),
        (f", give or take {(high - low) / 2:.0f}; two notes in three within {spread:.0f}{NBSP}ms of that place.", ""),
    ]


def _place_lead(reading: Reading) -> Pieces:
    heard = reading.heard
    if heard.mean_error_ms is None or heard.ci95_ms is None:
        return [(f"{note[0].upper()}{note[1:]}. ", "") for note in reading.notes[:1]]
    half = round((heard.ci95_ms[1] - heard.ci95_ms[0]) / 2)
    mean = heard.mean_error_ms
    place = f"{abs(mean):.0f}{NBSP}ms {'after' if mean > 0 else 'before'} the click"
    spread = f", your spread {heard.sd_ms:.0f}{NBSP}ms" if heard.sd_ms is not None else ""
    return [
        ("Your place is ", ""),
        (place, "strong"),
        (f", give or take {half}{spread}.", ""),
    ]


def _alone(read: list[SilenceReading], drill: Drill) -> str:
    """Return how long the silences are, by bars where they are whole ones: ``In 2 bars alone (8 beats, 5 s)``."""
    silence = drill.clicks.silence
    if isinstance(silence, FixedSilence) and not drill.tempo.steps:
        bars, beats = silence.silent, silence.silent * drill.cycle.beats
        seconds = beats * 60 / drill.tempo.bpm
        return f"In {bars} bar{'' if bars == 1 else 's'} alone ({beats} beats, {seconds:.0f}{NBSP}s)"
    seconds_ = sorted({round(s.end_s - s.start_s, 1) for s in read})
    if seconds_[-1] - seconds_[0] > 0.2:
        return f"Alone for {seconds_[0]:.1f} to {seconds_[-1]:.1f}{NBSP}s,"
    return f"Alone for {seconds_[-1]:.1f}{NBSP}s,"


def _exceptions(verdict: Verdict, silences: list[SilenceReading]) -> str:
    words = []
    groups = (("held", "held"), ("edge", "can’t be called"), ("unreadable", "can’t be read"))
    for outcome, verb in groups:
        which = [i for i, s in enumerate(silences, start=1) if s.outcome == outcome]
        if not which or OUTCOMES.get(verdict.code, verdict.code) == outcome or len(which) == len(silences):
            continue
        if len(which) == 1 and which[0] <= 8:
            words.append(f"The {ordinal(which[0])} silence {verb}.")
        else:
            words.append(f"{number(len(which)).capitalize()} {verb}.")
    return " ".join(words)
