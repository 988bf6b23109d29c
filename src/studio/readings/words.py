"""A reading in sentences: the verdict, the lead. No praise, no blame, nothing beyond the range."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Any

from giusto.schedule import Schedule
from giusto.tempo import held_tempo_bpm
from studio.drills.sentence import joined
from studio.sheet.words import NBSP, signed_ms

NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
ORDINALS = ("", "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth")
TIMES = {1: "once", 2: "twice"}
VERBS = {"held": "held", "late": "dragged in", "early": "rushed in"}


@dataclass(frozen=True, slots=True)
class Sentence:
    """The words of a reading: the verdict, and pieces of the lead with their style."""

    verdict: str
    lead: list[tuple[str, str]]
    standing: list[tuple[str, str]]


def sentence(plan: Schedule, spec: dict[str, Any]) -> Sentence:
    """Return verdict and lead of a reading."""
    silences = spec["silences"]
    return Sentence(verdict(silences, spec["onsets"]["matched"]), _lead(plan, spec), _became(plan, spec))


def verdict(silences: list[dict[str, Any]], matched: int) -> str:
    """Return the first sentence that fits the outcomes.

    Examples
    --------
    >>> four = [{"outcome": o} for o in ("late", "late", "held", "late")]
    >>> verdict(four, matched=200)
    'You dragged in three silences of four.'
    >>> verdict([{"outcome": "held"}] * 4, matched=200)
    'You held all four silences.'
    """
    count = Counter(silence["outcome"] for silence in silences)
    read = len(silences) - count["unreadable"]
    if matched < 4 or (silences and not read):
        return "Too few notes to read."
    if not silences:
        return "With the click throughout: no silence to read."
    slipped = [(n, s["slip_beats"]) for n, s in enumerate(silences, start=1) if s.get("slip_beats")]
    if slipped:
        return _slipped(slipped, silences)
    if count["edge"] == read:
        return f"Too close to call: at the 5{NBSP}% line."
    if said := _one_side(count, read, len(silences)):
        return said
    if count["early"] and count["late"]:
        lean = "slow" if count["late"] >= count["early"] else "fast"
        return f"Early {times(count['early'])}, late {times(count['late'])}: uneven, not {lean}."
    parts = [
        f"{word} {times(count[outcome])}"
        for outcome, word in (("held", "held"), ("early", "early"), ("late", "late"), ("edge", "on the edge"))
        if count[outcome]
    ]
    text = joined(parts)
    return f"{text[0].upper()}{text[1:]}."


def _one_side(count: Counter[str], read: int, total: int) -> str:
    """Return the verdict where all or most silences came out alike, else nothing."""
    for outcome, verb in VERBS.items():
        if count[outcome] == total:
            return _all(verb, total)
    for outcome, verb in VERBS.items():
        if count[outcome] == read == 1:
            return f"You {verb} the one silence that can be read."
        if count[outcome] * 2 > read:
            return f"You {verb} {number(count[outcome])} silence{'s' if count[outcome] > 1 else ''} of {number(read)}."
    return ""


def _slipped(slipped: list[tuple[int, int]], silences: list[dict[str, Any]]) -> str:
    """Say what whole beats lost or gained mean, as in ``You came back one beat late in the second silence``."""
    where, beats = slipped[0]
    many = "one beat" if abs(beats) == 1 else f"{number(abs(beats))} beats"
    side = "early" if beats > 0 else "late"
    if len(slipped) > 1:
        return f"You came back whole beats off in {number(len(slipped))} silences of {number(len(silences))}."
    if len(silences) == 1:
        return f"You came back {many} {side}."
    place = f"the {ORDINALS[where]} silence" if where < len(ORDINALS) else f"silence {where}"
    return f"You came back {many} {side} in {place}."


def _all(verb: str, total: int) -> str:
    if total == 1:
        return f"You {verb} the silence."
    if verb == "held":
        return f"You held {'both' if total == 2 else 'all ' + number(total)} silences."
    return f"You {verb} every silence."


def _lead(plan: Schedule, spec: dict[str, Any]) -> list[tuple[str, str]]:
    read = [s for s in spec["silences"] if s["outcome"] != "unreadable"]
    if not read:
        return _place_lead(spec)
    pieces = [(f"Alone for {_length(plan, read)}, ", ""), *_became(plan, spec)]
    off = [s for s in read if s["outcome"] in ("early", "late")]
    if off and len(off) <= 6:
        pieces += [(", and you came back ", ""), *_returns(off)]
    elif off:
        size = sum(s["return_ms"] for s in off) / len(off)
        pieces.append((f", and you came back {number(len(off))} times off your place, on average ", ""))
        pieces.append((signed_ms(size), "late" if size > 0 else "early"))
    pieces.append((f". {_exceptions(spec['silences'])}", ""))
    return pieces


def _became(plan: Schedule, spec: dict[str, Any]) -> list[tuple[str, str]]:
    """Return the tempo asked and the one held over all silences that were read: ``96 became 95.3``."""
    read = [s for s in spec["silences"] if s["drift_ms"] is not None]
    if not read:
        return []
    bpm = plan.drill.tempo.bpm
    asked_s, drift_s = sum(s["end_s"] - s["start_s"] for s in read), sum(s["drift_ms"] for s in read) / 1000
    return [(f"{bpm:g} became ", ""), (f"{held_tempo_bpm(bpm, asked_s=asked_s, drift_s=drift_s):.1f}", "strong")]


def _returns(off: list[dict[str, Any]]) -> list[tuple[str, str]]:
    """Return the returns as ``44, 71 and 49 ms late``, or one by one where they fall on both sides."""
    if len({silence["outcome"] for silence in off}) == 1:
        sizes = [f"{abs(silence['return_ms']):.0f}" for silence in off]
        return [(f"{joined(sizes)}{NBSP}ms {off[0]['outcome']}", off[0]["outcome"])]
    pieces = []
    for index, silence in enumerate(off):
        pieces.append((signed_ms(silence["return_ms"]), silence["outcome"]))
        if index < len(off) - 1:
            pieces.append((" and " if index == len(off) - 2 else ", ", ""))
    return pieces


def _place_lead(spec: dict[str, Any]) -> list[tuple[str, str]]:
    heard = spec["heard"]
    if heard["mean_error_ms"] is None:
        return [(f"{note[0].upper()}{note[1:]}. ", "") for note in spec["notes"][:1]]
    half = round((heard["ci95_ms"][1] - heard["ci95_ms"][0]) / 2)
    mean = heard["mean_error_ms"]
    place = f"{abs(mean):.0f}{NBSP}ms {'after' if mean > 0 else 'before'} the click"
    spread = f", your spread {heard['sd_ms']:.0f}{NBSP}ms" if heard["sd_ms"] is not None else ""
    return [
        ("Your place is ", ""),
        (place, "strong"),
        (f", ±{NBSP}{half}{spread}. It includes the delay of this device.", ""),
    ]


def _length(plan: Schedule, read: list[dict[str, Any]]) -> str:
    seconds = sorted({round(s["end_s"] - s["start_s"], 1) for s in read})
    if len(seconds) > 1 and seconds[-1] - seconds[0] > 0.2:
        return f"{seconds[0]:.1f} to {seconds[-1]:.1f}{NBSP}s"
    return f"{seconds[-1]:.1f}{NBSP}s"


def _exceptions(silences: list[dict[str, Any]]) -> str:
    words = []
    named = max(VERBS, key=lambda outcome: sum(s["outcome"] == outcome for s in silences))
    groups = (("held", "held"), ("edge", "is on the edge"), ("unreadable", "can’t be read"))
    for outcome, verb in groups:
        which = [i for i, s in enumerate(silences, start=1) if s["outcome"] == outcome]
        if not which or outcome == named or len(which) == len(silences):
            continue
        if len(which) == 1 and which[0] < len(ORDINALS):
            words.append(f"The {ORDINALS[which[0]]} silence {verb}.")
        else:
            plural = verb.replace("is on", "are on")
            words.append(f"{number(len(which)).capitalize()} {plural}.")
    return " ".join(words)


def number(value: int) -> str:
    """Return a number as a word up to twelve."""
    return NUMBERS[value] if value < len(NUMBERS) else str(value)


def times(value: int) -> str:
    """Return how often: once, twice, three times."""
    return TIMES.get(value, f"{number(value)} times")
