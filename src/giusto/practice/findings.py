"""What a reading shows, with its evidence: what was played, then time, then rhythm, then the rest.

Time and rhythm are kept apart: a lean is of the whole time in the silences, a slot or a place is of
the notes' lengths against one another. Nothing is found that its range does not show.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from giusto.drill import Drill
from giusto.figures.silence import beat_ms, held_limit_ms
from giusto.figures.tendency import STEADY_PERCENT
from giusto.missing import Missing
from giusto.practice.clean import INDEPENDENT_SHARE
from giusto.practice.finding import NOT_AS_ASKED, Finding, Judged
from giusto.practice.played import against_asked
from giusto.practice.rush import map_of, turn_of
from giusto.practice.verdict import LEANS, Verdict, spread_range, verdict_of
from giusto.reading import Reading
from giusto.returns.drift import HELD_SHARE
from giusto.schedule import Schedule
from giusto.tempo import slot_ms

FOLLOWS = 0.5  # ours: a correction surely above this follows the click more than it holds its own time
HOLDS = 0.35  # ours: one surely below this leaves most of an error to the player's own time
# From memory: 2.5 % of the interval is the least displacement that is heard (Friberg & Sundberg 1995).
HEARD_DISPLACEMENT = 0.025
TIRED = 1.25  # ours: a last third surely this much wider than the first
FEWEST_RETURNS = 5  # ours: two numbers are no spread
UNEVEN_SHARE = 0.08  # ours: of a slot; a spread surely wider with the click is a matter of the hands first


def findings(schedule: Schedule, reading: Reading) -> list[Finding]:
    """Return what a take shows, the most telling first.

    Parameters
    ----------
    schedule : Schedule
        Of the drill as played.
    reading : Reading

    Returns
    -------
    list of Finding
        Empty where nothing stands out beyond chance.
    """
    drill = schedule.drill
    played = against_asked(schedule, reading)
    hands, rhythm = list(_uneven_hands(drill, reading, played)), list(_rhythm(drill, reading))
    return [
        *played,
        *hands,
        *_time(drill, reading, verdict_of(schedule, reading, [*played, *hands, *rhythm]), played),
        *_following(reading),
        *rhythm,
        *_places(schedule, reading),
        *_tired(reading),
    ]


def _uneven_hands(drill: Drill, reading: Reading, played: list[Finding]) -> Iterator[Finding]:
    """Find a spread with the click so wide that nothing of the time alone can be trusted yet."""
    heard = reading.heard
    if heard.sd_ms is None or any(finding.code in NOT_AS_ASKED for finding in played):
        return
    ci95 = spread_range(heard.sd_ms, heard.n * INDEPENDENT_SHARE)
    if ci95[0] > UNEVEN_SHARE * slot_ms(drill.tempo.bpm, drill.part.grid):
        yield Finding("spread", heard.sd_ms, ci95, heard.n, where="click")


def _time(drill: Drill, reading: Reading, verdict: Verdict, played: list[Finding]) -> Iterator[Finding]:
    if verdict.code == "too-few":
        if not any(finding.code in (*NOT_AS_ASKED, "stopped-in-silence") for finding in played):
            yield Finding("few", reading.onsets.matched, None, reading.onsets.expected)
    elif verdict.code == "slipped":
        for number, silence in enumerate(reading.silences, start=1):
            if silence.slip_beats:
                yield Finding("slip", silence.slip_beats, silence.return_ci95_ms, silence.notes, where=str(number))
    elif verdict.code == "held":
        yield Finding("held", verdict.silences, None, verdict.of)
        yield from _lean(drill, reading, least_percent=STEADY_PERCENT)
    elif verdict.code in ("dragged", "rushed", "jumped"):
        yield from _lean(drill, reading)
    elif verdict.code == "edge":
        yield Finding("edge", verdict.silences, None, verdict.of)
    elif verdict.code == "uneven":
        yield from _spread(drill, reading)


def _lean(drill: Drill, reading: Reading, *, least_percent: float = 0.0) -> Iterator[Finding]:
    """Find the lean that silences share: where it is sure, or where most returns show its side."""
    found = reading.tendency
    if found is None or abs(found.tempo_percent) < least_percent or (least_percent and found.verdict not in LEANS):
        return
    code: Judged = "narrow" if found.tempo_percent > 0 else "wide"
    off_ms = slot_ms(drill.tempo.bpm, drill.part.grid) * found.tempo_percent / 100
    came = reading.course.way if reading.course else None
    yield Finding(
        code,
        found.tempo_percent,
        found.ci95_percent,
        found.silences,
        slot_ms=round(off_ms, 3),
        came=came,
        so_far=found.takes_differ_percent is None,
    )


def _spread(drill: Drill, reading: Reading) -> Iterator[Finding]:
    """Find a spread so wide that returns of a player without lean often leave the held limits."""
    returns = np.array([s.return_ms for s in reading.silences if s.return_ms is not None])
    if returns.size < FEWEST_RETURNS:
        return
    sd_ms = float(np.std(returns, ddof=1))
    ci95 = spread_range(sd_ms, returns.size)
    if ci95[0] > held_limit_ms(drill.tempo.bpm) / 2:
        yield Finding("spread", round(sd_ms, 3), ci95, returns.size)


def _following(reading: Reading) -> Iterator[Finding]:
    found = reading.correction
    if found and found.ci95[0] > FOLLOWS:
        yield Finding("follows", found.alpha, found.ci95, found.n)


def _rhythm(drill: Drill, reading: Reading) -> Iterator[Finding]:
    """Find lengths that surely differ by more than can be heard; a swung pair is meant to differ."""
    if reading.swing and reading.swing.ci95[0] > 1 + 2 * HELD_SHARE:
        return
    count = {slot.position_in_beat: slot.n for slot in reading.rhythm or []}
    for length in reading.lengths or []:
        low, high = length.ci95_percent
        if low > 100 * (1 + HEARD_DISPLACEMENT) or high < 100 * (1 - HEARD_DISPLACEMENT):
            code: Judged = "crushed" if length.percent < 100 else "stretched"
            n = count.get(length.end) or count.get(length.start) or 0
            asked_ms = beat_ms(drill.tempo.bpm) * float(Fraction(length.end) - Fraction(length.start))
            off_ms = round(asked_ms * (length.percent - 100) / 100, 3)
            where = f"{length.start} to {length.end}"
            yield Finding(code, length.percent, length.ci95_percent, n, slot_ms=off_ms, where=where)


def _places(schedule: Schedule, reading: Reading) -> Iterator[Finding]:
    """Find notes of the cycle into which time is surely gained or lost, by the map of this one take."""
    if schedule.is_free or not reading.heard.n:
        return
    found = map_of(schedule, [reading], beats=True)
    turns = turn_of(schedule.drill)
    for place in [] if isinstance(found, Missing) else found:
        if place.leans:
            where = place.position if turns == 1 else f"{place.bar}:{place.position}"
            yield Finding("place", place.gain_ms, place.ci95_ms, place.times, where=where)


def _tired(reading: Reading) -> Iterator[Finding]:
    found = reading.fatigue
    if found and found.spread_ratio_ci95[0] > TIRED:
        yield Finding("tired", found.spread_ratio, found.spread_ratio_ci95, 2)
