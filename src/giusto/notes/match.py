"""Which played note is which asked note.

A best path through (asked, played) pairs, both ascending. Each path carries its own running
estimate of the player's clock and of the lean in the present silence, so that a note is judged by
where *this* path expects it: by tempo continuity in silences, by phase where clicks sound. Paths
that end on the same asked note, as many slots off, are merged, and hopeless ones dropped, so the cost is linear in
notes and the band of pairs looked at moves with the player.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Collection
from dataclasses import dataclass
from math import inf, log, pi
from typing import Any, TypeAlias

import numpy as np

from giusto.arrays import FloatArray, IntArray
from giusto.schedule import Schedule
from giusto.schedule.timeline import REACTION_S, Timeline, timeline

# Ours, see docs/decisions/0004: generous sizes, since the player's own are not known yet.
HAND_S = 0.010  # standard deviation of one note about the clock
CLOCK = 0.025  # standard deviation of a step, as a share of it
LEAN = 0.05  # standard deviation of the tempo lean in a silence
LEAN_HEARD = 0.01  # the same while the click sounds
KEEP, KEEP_SPREAD = 0.6, 0.25  # share of an error that a heard click leaves, as for alpha in sizes, and its spread
FEW_STEPS = 16  # ours: fewer don't tell how uneven a player is
TIGHT, LOOSEST = 1.1, 3.0  # ours: times the sizes above; between them notes are matched anew
MOST_UNPAIRED = 0.4  # ours: notes at random leave out and add .65 of a drill and more; they are not matched anew
MEDIAN_OF_NORMAL = 0.6745  # of its absolute value, in standard deviations
FEW = 4  # fewer notes give no place
AGREEING = 0.6  # share of a slot's notes that must agree before it has a place of its own
MODE_S = 0.020  # width of the kernel that finds the mode of the places
FIRST_S = 0.030  # standard deviation of the first note about the player's place
PLACE_S = 0.080  # standard deviation of places over players and devices
FARTHEST_PLACE_S = 0.3  # ours: no device and no habit is further off
MISSED_COST = -log(0.03)
EXTRA_SHARE = 0.03  # extra notes for each asked note
JUMP_COST = 8.0  # a note that breaks with its path: the player stopped and came in again
FLOW_COST = 6.0  # more for a jump without a rest before it
SLIP_SPREAD = 0.3  # of a beat: how far from the nearest beat a player then comes in
SLIP_COST = 2.0  # a whole beat lost, instead of the cost of its notes
NEAR_SLOTS = 0.6  # asked notes looked at, in slots about the expected one
FLOWING_SLOTS = 1.5  # of a slot: a note this soon after the last one goes on without a rest
AWAY_BEATS, AWAY_SHARE = 8, 0.25  # ours: notes this far outside the drill, of its length, are of another one
LONGEST_SLOT_S = 4.0  # where a part has one note only
MODE_SAMPLE, MODE_TRIALS, MODE_WIDEST = 400, 128, 0.1  # notes and angles tried for a mode, its widest kernel in turns
PLAIN_FIT, PLAIN_GAP = -1.0, 0.75  # a note that fits this well, and a slot later nothing: it is none too many
PRUNE_COST, MAX_PATHS = 12.0, 12

_LOG_2PI = log(2 * pi)


@dataclass(frozen=True, slots=True)
class Matching:
    """Pairs of asked and played notes, by index, both ascending.

    Attributes
    ----------
    asked, played : array of int, shape (matched,)
    missed : array of int
        Asked notes that were not caught.
    extra : array of int
        Played notes that fit no asked one.
    """

    asked: IntArray
    played: IntArray
    missed: IntArray
    extra: IntArray


# One path: cost, last asked note matched, clock error (s) and lean there, their variances and
# covariance, and the trail of pairs (asked, played, earlier trail). A tuple, since millions are made.
_Path: TypeAlias = tuple[float, int, float, float, float, float, float, Any]


def match(schedule: Schedule, onsets_s: FloatArray) -> Matching:
    """Match played notes to a drill's asked notes.

    Parameters
    ----------
    schedule : Schedule
    onsets_s : array of float, shape (played,)
        Ascending, seconds from the drill's time zero.

    Returns
    -------
    Matching

    Notes
    -----
    A pair costs minus the log of the density of the note's place under its path; a missed note
    −log .03, an extra one minus the log of its rate. A constant delay costs nothing: the player's
    place is found first, as the mode of the heard notes' phase.
    """
    line = timeline(schedule)
    total = line.of_note.size
    first, last = _near(schedule, onsets_s)
    if first == last:
        return _matching([], total, onsets_s.size)
    pairs = _best_pairs(schedule, line, onsets_s[first:last])
    return _matching([(note, j + first) for note, j in pairs], total, onsets_s.size)


def _near(schedule: Schedule, onsets_s: FloatArray) -> tuple[int, int]:
    """Return the part of the notes that may belong to the drill; what is further off belongs to nothing."""
    end_s = float(schedule.seconds(schedule.end_tick))
    away_s = AWAY_BEATS * schedule.beat_s + AWAY_SHARE * end_s
    first, last = np.searchsorted(onsets_s, [-away_s, end_s + away_s]).tolist()
    return first, last


def _best_pairs(schedule: Schedule, line: Timeline, onsets_s: FloatArray) -> list[tuple[int, int]]:
    """Return (asked, played) of the cheapest path, over the places that the player may have."""
    total = line.of_note.size
    missed_cost = _rest_cost(onsets_s.size / total) if schedule.is_free else MISSED_COST
    clicks_s = schedule.seconds(schedule.clicks.tick)
    search = _Search(line, clicks_s=clicks_s, missed_cost=missed_cost)
    slot_s = search.least_slot_s
    places_s, is_known = _places(schedule, line, onsets_s, slot_s)
    search.first_s = FIRST_S if is_known else PLACE_S
    tries = [np.full(total, places_s[0])]
    if np.ptp(places_s) > MODE_S / 2:
        tries.append(places_s)
    best = min((search.run(onsets_s, places) for places in tries), key=lambda found: found[0])
    looser = _looseness(line, onsets_s, best[1])
    if TIGHT < looser <= LOOSEST and unpaired(*np.array(best[1]).T) < MOST_UNPAIRED:
        search.widen(looser)
        best = min((search.run(onsets_s, places) for places in tries), key=lambda found: found[0])
    if not schedule.is_free and _ragged(best[1], total, onsets_s.size):  # the place may be one slot off: ends decide
        near = [s for s in (-slot_s, slot_s) if abs(places_s[0] + s) <= FARTHEST_PLACE_S]
        others = [search.run(onsets_s, places_s + shift_s) for shift_s in near]
        best = min([best, *others], key=lambda found: (_ragged(found[1], total, onsets_s.size), found[0]))
    return best[1]


class _Search:
    """The best-path search over one drill."""

    def __init__(self, line: Timeline, *, clicks_s: FloatArray, missed_cost: float) -> None:
        self.missed_cost = missed_cost
        self.beat_s: list[float] = line.beat_s[line.of_note].tolist()  # where each note is asked
        self.click_s: list[float] = clicks_s.tolist()
        self.onset_s: list[float] = []
        self.place_s, self.first_s = 0.0, FIRST_S
        self.hand_var, self.clock = HAND_S**2, CLOCK
        at = line.of_note
        alone_s = np.where(line.silence >= 0, line.interval_s, 0.0)
        self.asked_s = line.time_s[at]
        self.time_s: list[float] = []  # where the player is expected: asked, and the place there
        self.alone_s: list[float] = np.concatenate([[0.0], np.cumsum(alone_s)])[at].tolist()
        before = int(np.searchsorted(clicks_s, line.time_s[0] - 1e-6))  # those of the count-in
        self.clicks_before: list[int] = (before + np.concatenate([[0], np.cumsum(line.clicks)])[at]).tolist()
        # The least slot of the take, as long as the tempo at each note makes it.
        self.least_slot_s = float(np.min(np.diff(self.asked_s), initial=LONGEST_SLOT_S))
        local = line.beat_s[at] / np.min(line.beat_s[at], initial=np.inf)
        self.slot_s: list[float] = (self.least_slot_s * local).tolist()
        self.extra_cost = -log(EXTRA_SHARE / self.least_slot_s)
        self.jump_cost = JUMP_COST + log(self.least_slot_s)

    def widen(self, times: float) -> None:
        """Expect hand and clock to be so many times as uneven."""
        self.hand_var, self.clock = (times * HAND_S) ** 2, times * CLOCK

    def run(self, onsets_s: FloatArray, places_s: FloatArray) -> tuple[float, list[tuple[int, int]]]:
        """Return the cost and the (asked, played) pairs of the best path at one set of places."""
        self.time_s = (self.asked_s + places_s).tolist()
        self.onset_s, self.place_s = onsets_s.tolist(), float(places_s[0])
        paths = [_start(float(places_s[0]), self.first_s)]
        gaps_s = [*np.diff(onsets_s).tolist(), 0.0]  # to the next onset
        for j, onset_s in enumerate(self.onset_s):
            grown: dict[tuple[int, int], _Path] = {}
            for path in paths:
                self._extend(path, j, onset_s, grown)
            fit = _cheapest(grown.values()) - _cheapest(paths)
            if fit > PLAIN_FIT or gaps_s[j] < PLAIN_GAP * self.least_slot_s:  # else it is no extra note
                for path in paths:
                    self._keep((path[0] + self.extra_cost, *path[1:]), grown)
            paths = _pruned(grown, bisect_left(self.time_s, onset_s - NEAR_SLOTS * self.least_slot_s), self.missed_cost)
        last = len(self.time_s) - 1
        ended = [path[0] + self.missed_cost * (last - path[1]) for path in paths]
        best = min(range(len(ended)), key=ended.__getitem__)
        return ended[best], _pairs(paths[best])

    def _keep(self, path: _Path, grown: dict[tuple[int, int], _Path]) -> None:
        """Keep a path where none that stands as it does is cheaper: on the same note, as far off by slots."""
        stand = (path[1], round(path[2] / self.least_slot_s))
        if stand not in grown or path[0] < grown[stand][0]:
            grown[stand] = path

    def _extend(self, path: _Path, j: int, onset_s: float, grown: dict[tuple[int, int], _Path]) -> None:
        """Put note ``j`` on each asked note that it may be, where no cheaper path ends there."""
        time_s = self.time_s
        last, error_s = path[1], path[2]
        ahead = min(last + 1, len(time_s) - 1)
        reach_s = NEAR_SLOTS * self.slot_s[ahead] + (1 - KEEP) * abs(error_s)
        near_s = onset_s - error_s
        turned_s = near_s
        beat_s = self.beat_s[ahead]
        if abs(error_s) > beat_s / 2 and self._heard_by(onset_s) > self._heard_by(self.onset_s[path[-1][1]]):
            turned_s += round(error_s / beat_s) * beat_s  # the click may be taken for another beat
        first = max(last + 1, bisect_left(time_s, min(near_s, turned_s) - reach_s))
        after = bisect_right(time_s, max(near_s, turned_s) + reach_s)
        for note in range(first, min(max(after, first + 1), len(time_s))):  # one at least
            self._keep(self._on(path, note, j, onset_s), grown)

    def _heard_by(self, onset_s: float) -> int:
        """Return how many clicks a note may answer, by when it was played."""
        return bisect_left(self.click_s, onset_s - self.place_s - REACTION_S)

    def _on(self, path: _Path, note: int, j: int, onset_s: float) -> _Path:
        """Return a path with note ``j`` put on an asked note: one step of a Kalman filter of error and lean.

        A path is its cost (nats), its last asked note, error (s) and lean (s a second alone), their variances and
        covariance, and the trail of pairs.
        """
        cost, last, error, lean, var, cov, var_lean, trail = path
        if last >= 0:
            alone_s = self.alone_s[note] - self.alone_s[last]
            step_s = self.time_s[note] - self.time_s[last]
            clicks = self.clicks_before[note] - self.clicks_before[last]
            off_s = onset_s - self.time_s[note]
            beat_s = self.beat_s[note]
            half_s = beat_s / 2
            if abs(off_s) > half_s or abs(error) > half_s:
                whole = round(error / beat_s)
                by_label, clicks = clicks, self._heard_by(onset_s) - self._heard_by(self.onset_s[trail[1]])
                if clicks < by_label and min(off_s, error) < -half_s:
                    return _UNHEARD  # so early that the click it is counted from has not sounded yet
                if clicks and whole:  # more than half a beat off, a player takes the click for the nearest beat
                    error -= whole * beat_s
                    var += (SLIP_SPREAD * beat_s) ** 2
                    lost = min(note - last - 1, round(max(whole, 0) * beat_s / self.slot_s[note]))
                    cost += SLIP_COST - self.missed_cost * lost
            # The error, as the step goes: what clicks take back of it, then what the lean adds, then the clock's noise.
            if clicks:  # a click was heard: part of the error goes, and the lean starts anew
                var = KEEP ** (2 * clicks) * var + (KEEP_SPREAD * error) ** 2
                error *= KEEP**clicks
                lean, cov, var_lean = 0.0, 0.0, LEAN**2 if alone_s else LEAN_HEARD**2
            elif not alone_s:  # and may go on going between two clicks
                var += (KEEP_SPREAD * error) ** 2
            if alone_s:
                error += lean * alone_s
                var += (2 * cov + var_lean * alone_s) * alone_s
                cov += var_lean * alone_s
            var += (self.clock * step_s) ** 2
        # What the note says against it: how far off it is, among what clock and hand let expect (nats).
        spread = var + self.hand_var
        miss = onset_s - self.time_s[note] - error
        fit = 0.5 * (_LOG_2PI + log(spread) + miss * miss / spread)
        cost += self.missed_cost * (note - last - 1)
        trail = (note, j, trail)
        # A note too far off is a jump, which costs the same however far: the path begins anew there. In flowing notes
        # it costs more, since who plays on does not jump.
        jump_cost = self.jump_cost
        if j and onset_s - self.onset_s[j - 1] < FLOWING_SLOTS * self.slot_s[note]:
            jump_cost += FLOW_COST
        if fit > jump_cost:
            return cost + jump_cost, note, error + miss, 0.0, self.hand_var, 0.0, LEAN**2, trail
        gain, gain_lean = var / spread, cov / spread  # the filter's: what of the miss the clock is, and not the hand
        return (
            cost + fit,
            note,
            error + gain * miss,
            lean + gain_lean * miss,
            var - gain * var,
            cov - gain * cov,
            var_lean - gain_lean * cov,
            trail,
        )


def _cheapest(paths: Collection[_Path]) -> float:
    """Return the cost of the cheapest of some paths; infinite where there is none."""
    if len(paths) == 1:  # mostly, and a long take asks often
        return next(iter(paths))[0]
    return min((path[0] for path in paths), default=inf)


def _looseness(line: Timeline, onsets_s: FloatArray, pairs: list[tuple[int, int]]) -> float:
    """Return how many times as uneven as expected the steps between paired notes are, the middle one of them."""
    if len(pairs) < FEW_STEPS:
        return 1.0
    note, j = np.array(pairs).T
    asked_s = line.time_s[line.of_note][note]
    step_s = np.diff(asked_s)
    off = np.abs(np.diff(onsets_s[j] - asked_s)) / np.sqrt(2 * HAND_S**2 + (CLOCK * step_s) ** 2)
    return float(np.median(off)) / MEDIAN_OF_NORMAL


def unpaired(asked: IntArray, played: IntArray) -> float:
    """Return the shares of asked notes left out and of played ones added, together, between first and last pair."""
    of_asked, of_played = int(asked[-1] - asked[0]) + 1, int(played[-1] - played[0]) + 1
    return (1 - asked.size / of_asked) + (1 - played.size / of_played)


def _rest_cost(share_played: float) -> float:
    """Return what a slot costs that an improvising player leaves out, over one that is played."""
    played = min(max(share_played, 0.05), 0.95)
    return log(played / (1 - played)) if played > 0.5 else 0.0


_UNHEARD: _Path = (inf, -1, 0.0, 0.0, 0.0, 0.0, 0.0, None)


def _start(place_s: float, spread_s: float) -> _Path:
    return (place_s**2 / (2 * PLACE_S**2), -1, 0.0, 0.0, spread_s**2, 0.0, LEAN_HEARD**2, None)


def _pruned(paths: dict[tuple[int, int], _Path], due: int, missed_cost: float) -> list[_Path]:
    """Return the paths worth keeping; one that lags behind owes the notes that are due by now."""
    kept = list(paths.values())
    if len(kept) == 1:
        return kept
    owing = [path[0] + missed_cost * (due - 1 - path[1]) if path[1] < due - 1 else path[0] for path in kept]
    limit = min(owing) + PRUNE_COST
    order = [k for k, cost in enumerate(owing) if cost <= limit]
    if len(order) > MAX_PATHS:
        order = sorted(order, key=owing.__getitem__)[:MAX_PATHS]
    return [kept[k] for k in order]


def _pairs(path: _Path) -> list[tuple[int, int]]:
    pairs: list[tuple[int, int]] = []
    trail = path[-1]
    while trail is not None:
        note, j, trail = trail
        pairs.append((note, j))
    return pairs[::-1]


def _ragged(pairs: list[tuple[int, int]], asked: int, played: int) -> int:
    """Return how many asked and played notes lie outside the first and the last pair."""
    if not pairs:
        return asked + played
    return sum(pairs[0]) + asked - 1 - pairs[-1][0] + played - 1 - pairs[-1][1]


def _places(schedule: Schedule, line: Timeline, onsets_s: FloatArray, slot_s: float) -> tuple[FloatArray, bool]:
    """Return the player's place for each asked note, and whether it is known from notes with the click.

    There is one place for each slot of the beat, the first shared.

    A swung or crushed slot has a place of its own, so that a rhythm is not taken for a broken path.
    """
    asked_s = line.time_s[line.of_note]
    nearest = np.clip(np.searchsorted(asked_s, onsets_s - slot_s / 2), 0, asked_s.size - 1)
    usable = np.flatnonzero(line.with_click[line.of_note][nearest])
    is_known = usable.size >= FEW
    usable = usable if is_known else np.arange(min(FEW, onsets_s.size))
    phase = 2 * pi * (onsets_s[usable] - asked_s[nearest[usable]]) / slot_s
    slot = schedule.playable.offset % schedule.ticks_per_beat
    shared = _mode(phase, slot_s)
    places = np.full(asked_s.size, shared)
    for one in np.unique(slot):
        of_one = phase[slot[nearest[usable]] == one]
        own = _mode(of_one, slot_s)
        near = np.abs(np.angle(np.exp(1j * (of_one - own)))) < 2 * pi * 2 * MODE_S / slot_s
        if np.count_nonzero(near) >= max(FEW, AGREEING * of_one.size):
            places[slot == one] = shared + np.angle(np.exp(1j * (own - shared)))
    return places / (2 * pi) * slot_s, is_known


def _mode(phase: FloatArray, slot_s: float) -> float:
    """Return the mode of angles, a slot being a full turn."""
    some = phase[:: max(1, phase.size // MODE_SAMPLE)]
    width = 2 * pi * min(MODE_S / slot_s, MODE_WIDEST)
    if not some.size:
        return 0.0
    trial = np.linspace(-pi, pi, MODE_TRIALS, endpoint=False)
    apart = np.angle(np.exp(1j * (some[:, None] - trial)))
    return float(trial[np.argmax(np.exp(-0.5 * (apart / width) ** 2).sum(axis=0))])


def _matching(pairs: list[tuple[int, int]], asked: int, played: int) -> Matching:
    array = np.array(pairs, dtype=np.int64).reshape(-1, 2)
    return Matching(
        asked=array[:, 0],
        played=array[:, 1],
        missed=np.setdiff1d(np.arange(asked), array[:, 0]),
        extra=np.setdiff1d(np.arange(played), array[:, 1]),
    )
