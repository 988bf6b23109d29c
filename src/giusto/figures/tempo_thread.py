"""The tempo all the way through a take without a click: from notes that lie on a grid, against themselves alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from giusto.arrays import FloatArray, IntArray
from giusto.missing import Missing
from giusto.ranges import Z95, Range
from giusto.tempo import SECONDS_PER_MINUTE

# All of it ours, by simulated players (tests/giusto/figures/test_tempo_thread.py).
FEWEST_ONSETS = 16  # notes
FEWEST_STEPS = 12  # from slot to slot, for clock and hand
LEAST_BEATS = 4.0  # of a piece of the thread
PLACE_TAKEN, TEMPO_TAKEN = 0.5, 0.15  # of what a note is off its slot: into the place, and into the tempo
AT_ONCE = 0.7, 1.4  # a first guess of the tempo lies within these of the asked one
PIECE_BEATS = 8.0  # of the thread, to whole cycles: shorter ones show the hand
START_BEATS = 8.0  # by which the take's own start is told
PARTS = 4  # a take without marked sections is told in quarters


@dataclass(frozen=True, slots=True)
class PartTempo:
    """The tempo of a part of a take.

    Attributes
    ----------
    beat, beats : float
        Where it begins, from the first note, and how long it is.
    time_s : float
        Its middle, from the drill's time zero.
    bpm : float
    ci95_bpm : (float, float)
        What its notes can vouch for.
    """

    beat: float
    beats: float
    time_s: float
    bpm: float
    ci95_bpm: Range


@dataclass(frozen=True, slots=True)
class TempoThread:
    """The tempo of a take from beginning to end.

    Attributes
    ----------
    beats : float
        Played, from the first note to the last.
    asked_bpm : float
    start : PartTempo
        Of its first beats: its own start.
    thread : list of PartTempo
        Cycle by cycle.
    sections : list of PartTempo
        As they were marked, else quarters.
    change_percent, change_ci95_percent
        The last quarter against the first; faster is positive. The range holds what a clock wanders by chance.
    verdict : {"faster", "slower", "steady"}
    """

    beats: float
    asked_bpm: float
    start: PartTempo
    thread: list[PartTempo]
    sections: list[PartTempo]
    change_percent: float
    change_ci95_percent: Range
    verdict: str


def tempo_thread(
    onset_s: FloatArray, *, asked_bpm: float, grid: int, cycle_beats: int, sections: Sequence[int] = ()
) -> TempoThread | Missing:
    """Return the tempo all the way, or why it can't be told.

    Parameters
    ----------
    onset_s : array of float, shape (notes,), ascending
    asked_bpm : float
    grid : int
        Slots to the beat on which the notes lie; not every slot needs one.
    cycle_beats : int
    sections : sequence of int
        Cycles of each section; none for quarters.

    Notes
    -----
    A clock that follows the notes' place and tempo gives each its slot, whatever the tempo does; of two notes in one
    slot the nearer counts. The tempo of a part is its beats over the time between two notes at the same place of the
    beat, so that swing has no part in it; its range comes from the hand (Wing & Kristofferson 1973: −γ₁ of the steps).
    The change from the first quarter to the last is set against hand and clock (γ₀ + 2γ₁) together.
    """
    slot, kept = _slots(onset_s, SECONDS_PER_MINUTE / asked_bpm / grid)
    if kept.size < FEWEST_ONSETS:
        return Missing("tempo", "few-notes", int(kept.size), FEWEST_ONSETS)
    time_s, beat = onset_s[kept], slot / grid
    total = float(beat[-1])
    noise = _noise(time_s, slot, grid)
    if noise is None or total < 2 * LEAST_BEATS:
        return Missing("tempo", "few-steps", int(np.count_nonzero(np.diff(slot) == 1)), FEWEST_STEPS)
    clock_s, hand_s = noise
    piece = cycle_beats * max(round(PIECE_BEATS / cycle_beats), 1)
    bounds = (piece * np.unique(np.floor(beat / piece))).tolist()
    if sections:
        ends = np.cumsum(sections) * cycle_beats
        spans = [(float(end - size * cycle_beats), float(end)) for end, size in zip(ends, sections, strict=True)]
    else:
        spans = [(total * k / PARTS, total * (k + 1) / PARTS) for k in range(PARTS)]

    def part(low: float, high: float) -> PartTempo | None:
        return _part(time_s, slot, grid, low, high, hand_s)

    thread = [found for low in bounds if (found := part(low, low + piece))]
    start = part(0.0, max(START_BEATS, piece))
    first, last = part(0.0, total / PARTS), part(total * (1 - 1 / PARTS), total)
    if not thread or start is None or first is None or last is None:
        return Missing("tempo", "few-steps", int(kept.size), FEWEST_ONSETS)
    change = 100 * (last.bpm / first.bpm - 1)
    half = 100 * Z95 * float(np.hypot(_spread(first, clock_s, hand_s, grid), _spread(last, clock_s, hand_s, grid)))
    verdict = "steady" if abs(change) <= half else "faster" if change > 0 else "slower"
    return TempoThread(
        beats=round(total, 3),
        asked_bpm=asked_bpm,
        start=start,
        thread=thread,
        sections=[found for low, high in spans if (found := part(low, high))],
        change_percent=round(change, 3),
        change_ci95_percent=(round(change - half, 3), round(change + half, 3)),
        verdict=verdict,
    )


def _slots(onset_s: FloatArray, asked_s: float) -> tuple[IntArray, IntArray]:
    """Return the slot of each note that is one, from 0, and which those are."""
    steps_s = np.diff(onset_s)
    if not steps_s.size:
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    first_s = float(np.median(steps_s[: 2 * FEWEST_ONSETS]))
    slot_s = first_s if AT_ONCE[0] <= first_s / asked_s <= AT_ONCE[1] else asked_s
    slots, kept, clock_s, off = [0], [0], float(onset_s[0]), 0.0
    for index, at_s in enumerate(onset_s[1:].tolist(), start=1):
        apart = (at_s - clock_s) / slot_s
        count = round(apart)
        if count <= 0:  # two notes for one slot: the nearer counts
            if abs(apart) < abs(off):
                kept[-1], off = index, apart
            continue
        off = apart - count
        slots.append(slots[-1] + count)
        kept.append(index)
        clock_s += (count + PLACE_TAKEN * off) * slot_s
        slot_s *= 1 + TEMPO_TAKEN * off / count
    return np.array(slots, dtype=np.int64), np.array(kept, dtype=np.int64)


def _noise(time_s: FloatArray, slot: IntArray, grid: int) -> tuple[float, float] | None:
    """Return the spread of the clock and of the hand, in seconds a slot; None where the steps are too few."""
    single = np.diff(slot) == 1
    if np.count_nonzero(single) < FEWEST_STEPS:
        return None
    steps_s = np.diff(time_s)
    rest = np.full(steps_s.size, np.nan)
    from scipy.ndimage import median_filter  # a tenth of a second, and most takes have clicks

    rest[single] = steps_s[single] - median_filter(steps_s[single], size=4 * grid + 1, mode="nearest")
    for place in range(grid):  # what every step from this place of the beat is longer by
        here = slot[:-1] % grid == place
        if np.any(single & here):
            rest[here] -= np.nanmean(rest[here])
    pairs = single[1:] & single[:-1]
    g0 = float(np.nanmean(rest**2))
    g1 = float(np.mean(rest[1:][pairs] * rest[:-1][pairs])) if np.any(pairs) else 0.0
    hand = float(np.clip(-g1, 0.0, g0 / 2))
    return float(np.sqrt(max(g0 - 2 * hand, 0.0))), float(np.sqrt(hand))


def _part(time_s: FloatArray, slot: IntArray, grid: int, low: float, high: float, hand_s: float) -> PartTempo | None:
    """Return the tempo between two beats; None where too few notes stand there."""
    inside = np.flatnonzero((slot >= low * grid - 0.5) & (slot <= high * grid + 0.5))
    best: tuple[int, int] | None = None
    for place in range(grid):
        here = inside[slot[inside] % grid == place]
        if here.size > 1 and (best is None or slot[here[-1]] - slot[here[0]] > slot[best[1]] - slot[best[0]]):
            best = int(here[0]), int(here[-1])
    if best is None:
        return None
    beats = float(slot[best[1]] - slot[best[0]]) / grid
    if beats < min(LEAST_BEATS, high - low) / 2 or beats < 1:
        return None
    span_s = float(time_s[best[1]] - time_s[best[0]])
    bpm = SECONDS_PER_MINUTE * beats / span_s
    half = bpm * Z95 * float(np.sqrt(2)) * hand_s / span_s
    return PartTempo(
        beat=round(float(slot[best[0]]) / grid, 3),
        beats=round(beats, 3),
        time_s=round(float(time_s[best[0]]) + span_s / 2, 4),
        bpm=round(bpm, 3),
        ci95_bpm=(round(bpm - half, 3), round(bpm + half, 3)),
    )


def _spread(part: PartTempo, clock_s: float, hand_s: float, grid: int) -> float:
    """Return the spread of a part's tempo as a share of it: the clock's steps, and the hand at both ends."""
    span_s = SECONDS_PER_MINUTE * part.beats / part.bpm
    return float(np.sqrt(part.beats * grid * clock_s**2 + 2 * hand_s**2)) / span_s
