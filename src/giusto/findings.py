"""What a reading found, with its evidence: kinds and figures, no words.

Time and rhythm are kept apart: a lean is of the whole time in the silences, a slot or a place is of
the notes' lengths against one another. Nothing is found that its range does not show.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from giusto.drill import Drill
from giusto.reading import Reading
from giusto.silence import HELD_SHARE, Range, held_limit_ms
from giusto.tempo import beat_period_s

FOLLOWS = 0.5  # ours: a correction surely above this follows the click more than it holds its own time
# From memory: 2.5 % of the interval is the least displacement that is heard (Friberg & Sundberg 1995).
HEARD_DISPLACEMENT = 0.025
TIRED = 1.25  # ours: a last third surely this much wider than the first

Kind = Literal[
    "few", "slip", "narrow", "wide", "spread", "held", "edge", "follows", "crushed", "stretched", "place", "tired"
]


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that a take shows.

    Attributes
    ----------
    kind : str
        ``few`` notes; ``slip`` of whole beats; subdivisions ``narrow`` (rushing) or ``wide`` (dragging);
        ``spread`` without lean; all silences ``held``; too close to call, ``edge``; ``follows`` the click;
        a length in the beat ``crushed`` or ``stretched``; a ``place`` of the cycle; ``tired``.
    size : float
        ``narrow``, ``wide``: percent of tempo. ``slip``: beats. ``spread``: ms between returns.
        ``follows``: alpha. ``crushed``, ``stretched``: percent of the asked length. ``place``: ms.
        ``tired``: ratio. ``few``, ``held``, ``edge``: how many notes or silences.
    ci95 : (float, float) or None
    n : int
        Silences, steps, notes or cycles that show it.
    slot_ms : float or None
        ``narrow``, ``wide``: how many ms each slot must be felt wider (positive) or narrower.
    way : str or None
        ``narrow``, ``wide``: how the drift came.
    where : str or None
        Silence by number, slots of a length as ``1/2 to 1``, or beat.
    """

    kind: Kind
    size: float
    ci95: Range | None
    n: int
    slot_ms: float | None = None
    way: str | None = None
    where: str | None = None


def findings(drill: Drill, reading: Reading) -> list[Finding]:
    """Return what a take shows, time first, then rhythm, then the rest.

    Parameters
    ----------
    drill : Drill
        As played.
    reading : Reading

    Returns
    -------
    list of Finding
        Empty where nothing stands out beyond chance.
    """
    return [*_time(drill, reading), *_following(reading), *_rhythm(drill, reading), *_places(reading), *_tired(reading)]


def _time(drill: Drill, reading: Reading) -> Iterator[Finding]:
    count = Counter(silence.outcome for silence in reading.silences)
    read = len(reading.silences) - count["unreadable"]
    if not reading.heard.n or (reading.silences and not read):
        yield Finding("few", reading.onsets.matched, None, reading.onsets.expected)
        return
    for number, silence in enumerate(reading.silences, start=1):
        if silence.slip_beats:
            yield Finding("slip", silence.slip_beats, silence.return_ci95_ms, silence.notes, where=str(number))
    if not read:
        return
    lean = reading.tendency
    if count["held"] == read:
        yield Finding("held", read, None, read)
    elif lean and lean.verdict in ("rushing", "dragging"):
        yield _lean(drill, reading, lean.tempo_percent, lean.ci95_percent, lean.silences)
    elif count["edge"] == read:
        yield Finding("edge", read, None, read)
    else:
        yield from _spread(drill, reading)


def _lean(drill: Drill, reading: Reading, percent: float, ci95: Range, n: int) -> Finding:
    slot_ms = 1000 * float(beat_period_s(drill.tempo.bpm)) / drill.part.grid
    way = reading.course.way if reading.course else None
    kind: Kind = "narrow" if percent > 0 else "wide"
    return Finding(kind, percent, ci95, n, slot_ms=round(slot_ms * percent / 100, 3), way=way)


def _spread(drill: Drill, reading: Reading) -> Iterator[Finding]:
    """Find a spread so wide that returns of a player without lean often leave the held limits."""
    returns = [s.return_ms for s in reading.silences if s.return_ms is not None]
    if len(returns) > 1:
        mean = sum(returns) / len(returns)
        sd_ms = (sum((ms - mean) ** 2 for ms in returns) / (len(returns) - 1)) ** 0.5
        if sd_ms > held_limit_ms(drill.tempo.bpm) / 2:
            yield Finding("spread", round(sd_ms, 3), None, len(returns))


def _following(reading: Reading) -> Iterator[Finding]:
    found = reading.correction
    if found and found.ci95[0] > FOLLOWS:
        yield Finding("follows", found.alpha, found.ci95, found.n)


def _rhythm(drill: Drill, reading: Reading) -> Iterator[Finding]:
    """Find lengths that surely differ by more than can be heard; swung pairs are meant to differ."""
    if reading.swing and reading.swing.ci95[0] > 1 + 2 * HELD_SHARE:
        return
    count = {slot.position_in_beat: slot.n for slot in reading.rhythm or []}
    for length in reading.lengths or []:
        low, high = length.ci95_percent
        if low > 100 * (1 + HEARD_DISPLACEMENT) or high < 100 * (1 - HEARD_DISPLACEMENT):
            kind: Kind = "crushed" if length.percent < 100 else "stretched"
            n = count.get(length.end) or count.get(length.start) or 0
            asked = Fraction(length.end) - Fraction(length.start)  # of a beat
            asked_ms = 1000 * float(beat_period_s(drill.tempo.bpm) * asked)
            off_ms = round(asked_ms * (length.percent - 100) / 100, 3)
            where = f"{length.start} to {length.end}"
            yield Finding(kind, length.percent, length.ci95_percent, n, slot_ms=off_ms, where=where)


def _places(reading: Reading) -> Iterator[Finding]:
    for place in reading.places or []:
        if place.leans:
            yield Finding("place", place.gain_ms, place.ci95_ms, place.n, where=str(place.beat))


def _tired(reading: Reading) -> Iterator[Finding]:
    found = reading.fatigue
    if found and found.spread_ratio_ci95[0] > TIRED:
        yield Finding("tired", found.spread_ratio, found.spread_ratio_ci95, 2)


def is_held(reading: Reading) -> bool:
    """Return whether each silence of a take was held, and there was one."""
    return bool(reading.silences) and all(silence.outcome == "held" for silence in reading.silences)
