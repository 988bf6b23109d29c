"""What was played against what was asked: another number of notes, another part, or not all of it.

Nothing here judges time; it says what kind of take this is, so that a figure isn't taken for a fault of
the clock. All shares are ours.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from giusto.arrays import BoolArray, FloatArray, IntArray
from giusto.drill.file import MOST_SLOTS
from giusto.figures.doubles import CLOSE_S, CLOSE_SLOT
from giusto.figures.tempo_thread import tempo_thread
from giusto.missing import Missing
from giusto.practice.finding import Finding
from giusto.ranges import rounded
from giusto.reading import Reading
from giusto.schedule import Schedule

CAUGHT, LEFT_OUT = 0.7, 0.15  # of the notes at a place: it was played, it was left out
FELL_SILENT, PLAYED_ON = 0.1, 0.6  # of the notes in silences, and with the click
MANY = 0.3  # of the notes: too many to be slips of the hand
MOSTLY = 0.7  # of the extra notes, at one kind of place
MIDDLE = 0.15  # about the middle between two asked notes, of a slot
FACTORS = (2, 3, 4, 6, 8)
GATHERED, SCATTERED = 0.7, 0.4  # mean resultant length of notes about slots: they are played, they aren't
FEWEST_WITH_CLICK = 8  # notes with the click, for that
BEATS_AWAY = 1.0  # by the end of a take whose tempo was not the click's
STEADY, FAR = 0.04, 0.15  # of the tempo: its parts lie this close together, and it this close to the asked one
NEAR_BEATS, FARTHEST_BEATS = 0.15, 0.25  # of its place, and of the place from what is asked: a note is the one asked
AS_ASKED, BETTER = 0.8, 0.1  # so well a figure fits some beats off, and so much better than where it was asked
PARTS = 12  # of a beat: places of extra notes are told to a twelfth


@dataclass(frozen=True)
class _Take:
    """A take's asked notes, which of them were caught, and what was played beside them."""

    schedule: Schedule
    reading: Reading

    @cached_property
    def asked_s(self) -> FloatArray:
        return self.schedule.seconds(self.schedule.notes.tick)

    @cached_property
    def caught(self) -> BoolArray:
        expected_s = np.array([match.expected_s for match in self.reading.matches])
        caught = np.zeros(self.asked_s.size, dtype=bool)
        caught[np.searchsorted(self.asked_s, expected_s - 1e-5)] = True
        return caught

    @cached_property
    def alone(self) -> BoolArray:
        """Asked notes inside a silence, neither of its clicks among them."""
        tick = self.schedule.notes.tick
        inside = np.zeros(tick.size, dtype=bool)
        for silence in self.schedule.silences:
            inside |= (tick > silence.start_tick) & (tick < silence.end_tick)
        return inside

    @cached_property
    def extra_s(self) -> FloatArray:
        return np.array([extra.played_s for extra in self.reading.extra])

    @cached_property
    def played_s(self) -> FloatArray:
        return np.sort(np.concatenate([[match.played_s for match in self.reading.matches], self.extra_s]))

    @cached_property
    def during(self) -> BoolArray:
        """Asked notes from the first that was caught to the last."""
        during = np.zeros(self.asked_s.size, dtype=bool)
        at = np.flatnonzero(self.caught)
        during[at[0] : at[-1] + 1] = True
        return during

    @property
    def beats(self) -> float:
        """Beats of the drill's body."""
        return float(self.schedule.drill.cycles * self.schedule.drill.cycle.beats)

    @property
    def slot_s(self) -> float:
        return float(np.min(np.diff(self.asked_s), initial=self.schedule.beat_s))


def against_asked(schedule: Schedule, reading: Reading) -> list[Finding]:
    """Return what was played otherwise than it was asked, the most telling first.

    Parameters
    ----------
    schedule : Schedule
        Of the drill as played.
    reading : Reading

    Returns
    -------
    list of Finding
        Empty for an improvised part, which asks for nothing.
    """
    if schedule.is_free:
        return []
    take = _Take(schedule, reading)
    if own := _own_tempo(take):
        return [own]
    if other := _beat_off(take) or _other_grid(take):  # before all that its notes fit no better than chance would
        return [other]
    if any(missing.code == "by-chance" for missing in reading.missing):
        return [Finding("not-this-drill", reading.onsets.matched, None, reading.onsets.played)]
    if take.played_s.size < 2 or not take.caught.any():
        return []
    found = next(
        (each for each in (_stopped_alone(take), _fewer(take), _more(take), _other(take)) if each),
        None,
    )
    late = [] if found else _late_back(take)
    return [*_joined_late(take), *([found] if found else late), *_stopped_in_silence(take)]


def _share(caught: BoolArray, which: BoolArray) -> float:
    return float(np.mean(caught[which])) if which.any() else 1.0


def _joined_late(take: _Take) -> Iterator[Finding]:
    first = int(np.flatnonzero(take.caught)[0])
    cycle = int(take.schedule.notes.cycle[first])
    missed_before = first - int(np.count_nonzero(take.played_s < take.asked_s[first] - take.slot_s))
    if cycle > 1 and missed_before >= first * MOSTLY:
        yield Finding("joined-late", cycle, None, first, where=str(cycle))


def _own_tempo(take: _Take) -> Finding | None:
    """Find a tempo kept all through that is not the click's: by the end it is beats away from it."""
    schedule = take.schedule
    if not schedule.drill.clicks.on or schedule.drill.tempo.steps or schedule.is_mostly_alone:
        return None
    body_s = float(schedule.seconds(schedule.body_tick)) - schedule.beat_s / 2
    found = tempo_thread(
        take.played_s[take.played_s >= body_s],
        asked_bpm=schedule.drill.tempo.bpm,
        grid=schedule.drill.part.grid,
        cycle_beats=schedule.drill.cycle.beats,
    )
    if isinstance(found, Missing):
        return None
    beats = sum(part.beats for part in found.sections)
    bpm = beats / sum(part.beats / part.bpm for part in found.sections)
    asked = found.asked_bpm
    ends = [part.ci95_bpm for part in found.sections]
    is_apart = all(high < asked for _, high in ends) or all(low > asked for low, _ in ends)
    is_one = max(part.bpm for part in found.sections) - min(part.bpm for part in found.sections) < STEADY * asked
    away = abs(bpm / asked - 1)
    # As many notes as that tempo asks for: others are another part, and not another tempo.
    count = take.played_s.size / (take.asked_s.size * beats / take.beats)
    if not (is_apart and is_one and away < FAR and away * beats >= BEATS_AWAY and abs(count - 1) < 1 - CAUGHT):
        return None
    ci95 = rounded((min(low for low, _ in ends), max(high for _, high in ends)))
    return Finding("own-tempo", round(bpm, 3), ci95, take.played_s.size)


def _beat_off(take: _Take) -> Finding | None:
    """Find a figure that was played as asked, but beats or halves off all through: the count began elsewhere.

    On an even grid one beat is as good as another, and nothing tells it.
    """
    drill, per_beat = take.schedule.drill, take.schedule.ticks_per_beat
    if isinstance(drill.part.play, str) or min(take.played_s.size, take.asked_s.size) < FEWEST_WITH_CLICK:
        return None
    asked, played = take.schedule.notes.tick / per_beat, take.schedule.tempos.ticks(take.played_s) / per_beat
    as_asked, most = _fit(asked, played), drill.cycle.beats
    if as_asked + BETTER > 1:
        return None
    fits = {half / 2: _fit(asked, played - half / 2) for half in range(-most, most + 1)}
    best = max(fits, key=lambda beats: (fits[beats], -abs(beats)))
    is_off = fits[best] >= max(AS_ASKED, as_asked + BETTER)
    return Finding("beat-off", best, None, take.played_s.size) if is_off else None


def _fit(asked: FloatArray, played: FloatArray) -> float:
    """Return how far notes are those asked, 0 to 1: harmonic mean of what was hit and what hits; all in beats."""
    after = np.clip(np.searchsorted(asked, played), 1, asked.size - 1)
    nearest = after - (played - asked[after - 1] < asked[after] - played)
    off = played - asked[nearest]
    place = float(np.median(off))
    hits = np.unique(nearest[np.abs(off - place) <= NEAR_BEATS]).size if abs(place) <= FARTHEST_BEATS else 0
    inside = np.count_nonzero((asked >= played[0] - FARTHEST_BEATS) & (asked <= played[-1] + FARTHEST_BEATS))
    return 2 * hits / (inside + played.size)


def _late_back(take: _Take) -> list[Finding]:
    """Find a player who comes in beats after the click came back, each time: the first notes with it are missed."""
    tick, beats = take.schedule.notes.tick, []
    for silence in take.schedule.silences:
        after = np.flatnonzero((tick >= silence.end_tick) & take.during)
        came = after[take.caught[after]]
        inside = take.caught[(tick > silence.start_tick) & (tick < silence.end_tick)]
        if came.size and inside.size and inside.mean() >= PLAYED_ON:
            beats.append(float(tick[came[0]] - silence.end_tick) / take.schedule.ticks_per_beat)
    late = [one for one in beats if one >= 1]
    if len(late) < 2 or len(late) < MOSTLY * len(beats):
        return []
    return [Finding("late-back", round(float(np.median(late)), 3), None, len(late))]


def _stopped_in_silence(take: _Take) -> Iterator[Finding]:
    for number, silence in enumerate(take.reading.silences, start=1):
        if any(missing.code == "stopped" and missing.have == number for missing in take.reading.missing):
            last = [m for m in take.reading.matches if silence.start_s < m.expected_s < silence.end_s][-3:]
            place_ms = take.reading.heard.mean_error_ms or 0.0
            off_ms = float(np.median([m.error_ms for m in last])) - place_ms if last else 0.0
            yield Finding("stopped-in-silence", round(off_ms, 3), None, silence.notes, where=str(number))


def _stopped_alone(take: _Take) -> Finding | None:
    alone, with_click = take.alone & take.during, ~take.alone & take.during
    if alone.sum() < 2 or _share(take.caught, alone) > FELL_SILENT or _share(take.caught, with_click) < PLAYED_ON:
        return None
    return Finding("stopped-alone", len(take.schedule.silences), None, int(alone.sum()))


def _fewer(take: _Take) -> Finding | None:
    """Find every second, third or fourth note played, throughout or only in the silences."""
    if take.extra_s.size >= MANY * take.caught.sum():
        return None
    for factor in FACTORS:
        if _every(take, take.during, factor):
            return Finding("half", factor, None, int(take.caught.sum()))
        alone, with_click = take.alone & take.during, ~take.alone & take.during
        if _every(take, alone, factor) and _share(take.caught, with_click) >= CAUGHT:
            return Finding("half", factor, None, int(take.caught[take.alone].sum()), where="alone")
    return None


def _every(take: _Take, which: BoolArray, factor: int) -> bool:
    """Whether, of the notes of each cycle, every so-manieth was played and the others were left out."""
    residue = _index_in_cycle(take.schedule) % factor
    shares = [_share(take.caught, which & (residue == k)) for k in range(factor)]
    enough = np.count_nonzero(which) >= 2 * factor
    return bool(enough and max(shares) >= CAUGHT and sorted(shares)[-2] <= LEFT_OUT)


def _index_in_cycle(schedule: Schedule) -> IntArray:
    cycle = schedule.notes.cycle
    first = np.searchsorted(cycle, cycle)
    index: IntArray = np.arange(cycle.size) - first
    return index


def _more(take: _Take) -> Finding | None:
    """Find two strokes for one, or twice the notes."""
    if take.extra_s.size < MANY * take.caught.sum():
        return None
    close = np.diff(take.played_s) < min(CLOSE_S, CLOSE_SLOT * take.slot_s)
    if np.count_nonzero(close) >= MOSTLY * take.extra_s.size:
        gap_ms = 1000 * float(np.median(np.diff(take.played_s)[close]))
        return Finding("doubled", round(gap_ms, 1), None, int(np.count_nonzero(close)), where=_struck_by(take.reading))
    within = _phase(take)
    if np.mean(np.abs(within - 0.5) < MIDDLE) >= MOSTLY:
        return Finding("double", 2, None, take.extra_s.size)
    return None


def _struck_by(reading: Reading) -> str | None:
    """Return whose the second strokes mostly are: the ``other`` hand's, the ``same`` one's; None where nobody knows."""
    found = reading.doubles
    if found is None or found.flams is None or found.by_one is None:
        return None
    return "other" if found.flams >= MOSTLY * found.n else "same" if found.by_one >= MOSTLY * found.n else None


def _phase(take: _Take) -> FloatArray:
    """Return where each extra note lies between the caught notes on either side, a slot being 1."""
    caught_s = np.array([match.played_s for match in take.reading.matches])
    before = np.clip(np.searchsorted(caught_s, take.extra_s) - 1, 0, caught_s.size - 1)
    phase: FloatArray = (take.extra_s - caught_s[before]) / take.slot_s % 1.0
    return phase


def _other_grid(take: _Take) -> Finding | None:
    """Find notes on another division of the beat, by how they gather about its slots while the click sounds."""
    asked = take.schedule.drill.part.grid
    if take.schedule.drill.part.play != "grid":
        return None
    tick = take.schedule.tempos.ticks(take.played_s)
    alone = np.zeros(tick.size, dtype=bool)
    for silence in take.schedule.silences:
        alone |= (tick > silence.start_tick) & (tick <= silence.end_tick)
    beat = tick[~alone] / take.schedule.ticks_per_beat
    if beat.size < FEWEST_WITH_CLICK:
        return None
    gathered = {grid: float(abs(np.mean(np.exp(2j * np.pi * grid * beat)))) for grid in range(1, MOST_SLOTS + 1)}
    best = next((grid for grid, length in gathered.items() if length > GATHERED), None)
    if best is None or gathered[asked] > SCATTERED or asked % best == 0 or best % asked == 0:
        return None
    return Finding("other-part", beat.size, None, take.played_s.size, where=f"1/{best}")


def _other(take: _Take) -> Finding | None:
    """Find notes of another figure or grid: many of those asked are missing, and as many stand elsewhere."""
    missed = np.count_nonzero(take.during & ~take.caught)
    if missed < MANY * take.during.sum() or take.extra_s.size < MANY * take.played_s.size:
        return None
    place_s = (take.reading.heard.mean_error_ms or 0.0) / 1000
    beat = take.schedule.tempos.ticks(take.extra_s - place_s) / take.schedule.ticks_per_beat
    parts, count = np.unique(np.round(beat * PARTS).astype(np.int64) % PARTS, return_counts=True)
    part = int(parts[np.argmax(count)])
    where = f"{part // np.gcd(part, PARTS)}/{PARTS // np.gcd(part, PARTS)}" if part else "0"
    return Finding("other-part", take.extra_s.size, None, take.played_s.size, where=where)
