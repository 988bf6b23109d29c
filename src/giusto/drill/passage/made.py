"""The drill that asks for a passage's onsets."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import groupby
from math import lcm
from typing import Any

from giusto.drill import position
from giusto.drill.file import HIGHEST_BPM, LOWEST_BPM, MOST_BEATS, MOST_SEGMENTS, MOST_SLOTS, Drill, validate
from giusto.drill.passage.bars import Bar
from giusto.errors import GiustoError

PLAIN_BPM = 60.0  # common practice: where a passage is begun when nothing is said of its tempo
QUARTER = Fraction(1, 4)
SMALLER_BEATS = (1, 2, 3)  # ours: where a beat has more slots than a drill may have, its half or third is the beat


def passage_drill(bars: Sequence[Bar], *, quarters_a_minute: float | None, name: str) -> Drill:
    """Return the drill that asks for the onsets of some bars.

    Parameters
    ----------
    bars : sequence of Bar
        In the order in which they are played.
    quarters_a_minute : float or None
        60 where None is given.
    name : str

    Returns
    -------
    Drill
        A cycle a bar, each with its own notes; where the metre changes or a bar has no note, all bars as one
        cycle whose groups they are. Every beat clicks. A pick-up is the end of a bar.

    Raises
    ------
    GiustoError
        ``passage``, with the bar, where it can't be a drill.
    """
    if not any(bar.onsets for bar in bars):
        raise GiustoError("the passage has no note that begins in it", code="passage")
    for bar in bars[1:]:
        if bar.beat != bars[0].beat:
            problem = f"bar {bar.number} counts in {bar.beat} and not in {bars[0].beat}, allowed is one note value"
            raise GiustoError(problem, code="passage")
    filled = [_filled(bar, is_first=index == 0) for index, bar in enumerate(bars)]
    parts, grid = _parts_of_beat(filled)
    beat_value = bars[0].beat / parts
    bpm = (quarters_a_minute or PLAIN_BPM) * float(QUARTER / beat_value)
    if not LOWEST_BPM <= bpm <= HIGHEST_BPM:
        problem = f"a tempo of {bpm:g} beats a minute, allowed are {LOWEST_BPM} to {HIGHEST_BPM}"
        raise GiustoError(f"the passage has {problem}", code="passage")
    laid = _as_cycles(filled, parts) or _as_one_cycle(filled, parts)
    beats, groups, play, cycles = laid
    clicks = [str(1 + beat) for beat in range(0, beats, parts)]
    plain: dict[str, Any] = {
        "giusto": "drill/1",
        "name": name[:120],
        "tempo": {"bpm": round(bpm, 3), "beat": f"{beat_value.numerator}/{beat_value.denominator}"},
        "cycle": {"beats": beats, "groups": groups},
        "clicks": {"on": clicks},
        "part": {"grid": grid, "play": play},
        "cycles": cycles,
    }
    return validate(plain)


def _filled(bar: Bar, *, is_first: bool) -> Bar:
    """Return a bar of whole beats: a pick-up that begins the passage becomes the end of a bar."""
    beats, onsets = bar.beats, bar.onsets
    if is_first and beats < bar.full:
        onsets = tuple(onset + bar.full - beats for onset in onsets)
        beats = Fraction(bar.full)
    if beats.denominator != 1:
        problem = f"bar {bar.number} lasts {beats} beats, allowed are whole beats, but for a pick-up at the start"
        raise GiustoError(problem, code="passage")
    return Bar(bar.number, bar.beat, beats, bar.full, onsets, bar.grace)


def _parts_of_beat(bars: Sequence[Bar]) -> tuple[int, int]:
    """Return in how many parts a beat is counted, and how many slots each of these has."""
    for parts in SMALLER_BEATS:
        grid = lcm(*((onset * parts).denominator for bar in bars for onset in bar.onsets))
        if grid <= MOST_SLOTS:
            return parts, grid
    worst = max(bars, key=lambda bar: lcm(1, *(onset.denominator for onset in bar.onsets)))
    slots = lcm(*(onset.denominator for onset in worst.onsets))
    problem = f"bar {worst.number} needs {slots} slots a beat, and the passage more than {MOST_SLOTS}"
    raise GiustoError(f"{problem}: choose bars whose notes divide the beat alike", code="passage")


def _as_cycles(bars: Sequence[Bar], parts: int) -> tuple[int, list[int], Any, int] | None:
    """Return beats, groups, part and cycles with a bar a cycle, where all are alike and none is empty."""
    beats = int(bars[0].beats) * parts
    if any(bar.beats != bars[0].beats or not bar.onsets for bar in bars) or beats > MOST_BEATS:
        return None
    runs = [(onsets, len(list(run))) for onsets, run in groupby(bars, key=lambda bar: bar.onsets)]
    if len(runs) > MOST_SEGMENTS:
        raise GiustoError(f"the passage has {len(runs)} different bars, allowed are {MOST_SEGMENTS}", code="passage")
    groups = [parts] * int(bars[0].beats) if parts > 1 else [beats]
    if len(runs) == 1:
        return beats, groups, _places(runs[0][0], parts), len(bars)
    play = [{"cycles": count, "at": _places(onsets, parts)} for onsets, count in runs]
    return beats, groups, play, len(bars)


def _as_one_cycle(bars: Sequence[Bar], parts: int) -> tuple[int, list[int], Any, int]:
    """Return the same with all bars as one cycle."""
    starts = [sum((bar.beats for bar in bars[:index]), Fraction()) for index in range(len(bars) + 1)]
    beats = int(starts[-1]) * parts
    if beats > MOST_BEATS:
        odd = (bar.number for bar in bars if bar.beats != bars[0].beats or not bar.onsets)
        number = next(odd, bars[0].number)
        problem = f"bar {number} changes the metre or has no note, and {beats} beats do not fit one cycle"
        raise GiustoError(f"{problem}: allowed are {MOST_BEATS}; choose fewer bars", code="passage")
    onsets = [start + onset for bar, start in zip(bars, starts, strict=False) for onset in bar.onsets]
    return beats, [int(bar.beats) * parts for bar in bars], _places(onsets, parts), 1


def _places(onsets: Sequence[Fraction], parts: int) -> list[str]:
    return [position.write(onset * parts) for onset in onsets]
