"""A take whose click climbs until notes and click part: the highest tempo that is kept for a cycle."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import ndtr

from giusto.arrays import BoolArray, FloatArray
from giusto.drill import Drill, validate
from giusto.drill.file import HIGHEST_BPM, LOWEST_BPM, FreeDrill
from giusto.missing import Missing
from giusto.ranges import Range
from giusto.schedule import Schedule

# Ours: of as many notes as are asked, and how closely they go with the slots: the mean cosine of their phase about the
# player's place, 1 for notes on their slots, 0 for notes anywhere; .6 is a spread of a sixth of a slot.
LEAST_NOTES, MOST_NOTES, WITH_IT = 0.8, 1.25, 0.6
FEWEST_CYCLES = 4  # ours
SETTLED_SHARE = 3  # ours: the first cycle in so many tells the place
PARTED = 2  # ours: cycles in a row that weren't kept
PROBE_FROM, PROBE_TO = 0.75, 2.25  # ours: of a drill's tempo
PROBE_BEATS, FEWEST_STEPS, MOST_STEPS = 400, 8, 30  # ours: as long as that, in so many steps
# Ours: the chance to keep a cycle falls over log tempo as a cumulative normal; octaves.
SPREADS = np.array([0.01, 0.02, 0.04, 0.08, 0.16])
BEYOND, STEP = 0.5, 0.004


@dataclass(frozen=True, slots=True)
class Ceiling:
    """The highest tempo that was kept for a cycle.

    Attributes
    ----------
    kept_bpm : float or None
        Of the fastest cycle that was kept; None where none was.
    bpm : float or None
        Where a cycle is kept every second time; None where all were kept, or none.
    ci95_bpm : (float, float)
        Its range; where all were kept only its lower end says something, where none was only its upper one.
    cycles : int
        How many were played.
    reason : str
        ``""``, ``all-kept`` or ``none-kept``.
    """

    kept_bpm: float | None
    bpm: float | None
    ci95_bpm: Range
    cycles: int
    reason: str = ""


def probe_of(drill: Drill) -> Drill | None:
    """Return the probe of a drill: its own notes to a click that climbs each cycle; None where it asks for no notes.

    Ours: from three quarters of its tempo to two and a quarter of it, in at most 31 steps, fewer where a cycle is long.
    """
    if isinstance(drill, FreeDrill) or drill.part.play == "free":
        return None
    bpm, beats = drill.tempo.bpm, drill.cycle.beats
    count = min(max(PROBE_BEATS // beats, FEWEST_STEPS), MOST_STEPS)
    start = max(round(PROBE_FROM * bpm), LOWEST_BPM)
    by = max(round((PROBE_TO - PROBE_FROM) * bpm / count), 1)
    to = min(start + by * count, HIGHEST_BPM)
    plain = drill.plain()
    plain["giusto"] = max(plain["giusto"], "drill/2")
    plain["tempo"] |= {"bpm": start, "steps": {"every_cycles": 1, "by": by, "to": to, "on": "sounding"}}
    heard = {"on": [str(beat + 1) for beat in range(beats)], "every": 1, "silence": None, "shift": None, "subdivide": 1}
    plain["clicks"] |= heard
    plain["cycles"] = -(-(to - start) // by) + 1
    return validate(plain)


def has_parted(schedule: Schedule, onsets_s: ArrayLike, until_s: float) -> bool:
    """Return whether notes and click have parted by a moment, so that going on tells nothing more.

    Parameters
    ----------
    schedule : Schedule
        Of a probe.
    onsets_s : array_like, shape (played,)
        Drill time, what was played so far.
    until_s : float
        Drill time; only cycles that were over by then count.

    Notes
    -----
    Ours: the last two cycles that are over were not kept, of at least four.
    """
    onsets = np.asarray(onsets_s, dtype=np.float64)
    begun = _cycles(schedule, onsets[onsets <= until_s], until_s)
    cycles = [cycle for cycle in begun if cycle.last_s <= until_s]
    if len(cycles) < FEWEST_CYCLES:
        return False
    place_s = _place_of(cycles)
    return not any(cycle.is_kept(place_s) for cycle in cycles[-PARTED:])


def is_probe(drill: Drill) -> bool:
    """Return whether a drill's click climbs, and sounds throughout."""
    steps = drill.tempo.steps
    return steps is not None and steps.to > drill.tempo.bpm and drill.clicks.silence is None


def ceiling(schedule: Schedule, onsets_s: ArrayLike) -> Ceiling | Missing:
    """Return where notes and click parted.

    Parameters
    ----------
    schedule : Schedule
        Of a probe.
    onsets_s : array_like, shape (played,)
        Drill time.

    Returns
    -------
    Ceiling or Missing
        ``few-climbed`` where fewer than four were played.

    Notes
    -----
    A cycle is kept where about as many notes were played as it asks, and these go with its slots: the mean of
    cos(2π (error − place) / slot) is .6 or more. The place is the circular mean of the first third. What was
    not played after the last note does not count.

    References
    ----------
    Mardia & Jupp 2000, Directional Statistics, the mean resultant length (from memory).
    """
    onsets = np.asarray(onsets_s, dtype=np.float64)
    cycles = _cycles(schedule, onsets, float(onsets[-1]) if onsets.size else 0.0)
    if len(cycles) < FEWEST_CYCLES:
        return Missing("ceiling", "few-climbed", len(cycles), FEWEST_CYCLES)
    place_s = _place_of(cycles)
    kept = np.array([cycle.is_kept(place_s) for cycle in cycles])
    bpm = np.array([cycle.bpm for cycle in cycles])
    low, middle, high = _half(np.log2(bpm), kept)
    fastest = float(bpm[kept].max()) if kept.any() else None
    if kept.all() or not kept.any():
        return Ceiling(fastest, None, (low, high), len(cycles), "all-kept" if kept.all() else "none-kept")
    return Ceiling(fastest, middle, (low, high), len(cycles))


@dataclass(frozen=True, slots=True)
class _Cycle:
    bpm: float
    last_s: float
    asked: int
    error_s: FloatArray
    slots_s: FloatArray

    def is_kept(self, place_s: float) -> bool:
        if not LEAST_NOTES * self.asked <= self.error_s.size <= MOST_NOTES * self.asked:
            return False
        return float(np.mean(np.cos(2 * np.pi * (self.error_s - place_s) / self.slots_s))) >= WITH_IT


def _cycles(schedule: Schedule, onsets: FloatArray, until_s: float) -> list[_Cycle]:
    """Return the cycles begun by a moment, each with the errors of its notes against the nearest asked ones."""
    notes = schedule.notes
    asked_s = schedule.seconds(notes.tick)
    if not onsets.size or asked_s.size < 2:
        return []
    slot_ticks = schedule.ticks_per_beat // schedule.drill.part.grid
    found = []
    for cycle in range(1, schedule.drill.cycles + 1):
        here = notes.cycle == cycle
        start = schedule.body_tick + (cycle - 1) * schedule.cycle_ticks
        end = start + schedule.cycle_ticks
        slot_s = schedule.between_s(start, start + slot_ticks)
        first_s, last_s = float(schedule.seconds(start)) - slot_s / 2, float(schedule.seconds(end)) - slot_s / 2
        if not here.any() or first_s > until_s:
            continue
        played = onsets[(onsets >= first_s) & (onsets < last_s)]
        at = asked_s[here]
        nearest = at[np.argmin(np.abs(played[:, None] - at), axis=1)] if played.size else played
        bpm = schedule.bpm_between(start, end)
        found.append(_Cycle(bpm, last_s, int(here.sum()), played - nearest, np.full(played.size, slot_s)))
    return found


def _place_of(cycles: list[_Cycle]) -> float:
    """Return the player's place by the first cycles, where nothing is hard yet."""
    settled = cycles[: max(len(cycles) // SETTLED_SHARE, 1)]
    return _place_s([pair for cycle in settled for pair in zip(cycle.error_s, cycle.slots_s, strict=True)])


def _place_s(pairs: list[tuple[float, float]]) -> float:
    """Return the player's place: the circular mean of errors, each over its own slot."""
    if not pairs:
        return 0.0
    error_s, slot_s = np.array(pairs).T
    turn = np.angle(np.mean(np.exp(2j * np.pi * error_s / slot_s)))
    return float(turn / (2 * np.pi) * slot_s.mean())


def _half(x: FloatArray, kept: BoolArray) -> tuple[float, float, float]:
    """Return quantiles of the tempo at which a cycle is kept every second time."""
    half, spread = (
        grid.ravel()
        for grid in np.meshgrid(np.arange(x.min() - BEYOND, x.max() + BEYOND, STEP), SPREADS, indexing="ij")
    )
    chance = ndtr((half - x[:, None]) / spread)
    told = np.log(np.clip(np.where(kept[:, None], chance, 1 - chance), 1e-9, None)).sum(axis=0)
    weight = np.exp(told - told.max())
    order = np.argsort(half)
    below = np.cumsum((weight / weight.sum())[order])
    ends = [half[order][min(int(np.searchsorted(below, share)), half.size - 1)] for share in (0.025, 0.5, 0.975)]
    low, middle, high = (round(float(2.0**end), 1) for end in ends)
    return low, middle, high
