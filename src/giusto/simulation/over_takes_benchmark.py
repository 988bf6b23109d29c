"""How true what is said over takes is: reach, clean, ladders, change and rush maps, of players whose truth is known."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from functools import partial, reduce
from math import log2, sqrt

import numpy as np
from scipy.special import ndtr, ndtri

from giusto.arrays import FloatArray
from giusto.drill import validate
from giusto.figures.held import returns_of_take
from giusto.figures.silence import beat_ms
from giusto.missing import Missing
from giusto.practice.clean import Margins, cleanness, margins
from giusto.practice.course import Course, course
from giusto.practice.ladder import Attempt, Ladder, State, climbed, ladder_of, step_from
from giusto.practice.over_takes.clock import walk_of
from giusto.practice.over_takes.reaches import expected_at
from giusto.practice.reach import Reach, reach
from giusto.practice.reach.by_clock import Predicted
from giusto.practice.rush import map_of
from giusto.reading import analyse
from giusto.reading.earlier import leans_of
from giusto.returns.drift import HELD_OFTEN, HELD_SHARE, NONE, Returns, drift_of, joined
from giusto.returns.held import held_chances
from giusto.schedule import Schedule, schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from giusto.simulation.reach_at_best import reach_at_best
from giusto.timekeeper.prior import Seen

HANDS_MS = (4.0, 8.0, 15.0, 25.0)
TEMPOS, NOTES = (60, 96, 120, 160), (1, 2, 3, 4)
SILENT = (1, 2, 4)  # cycles of a silence, take by take
READ_SD = 0.7  # of a take's figure, where takes differ by 1
FIRST_DAY = datetime(2026, 1, 5, 18, tzinfo=UTC)
LOW, HIGH = 0.7, 0.85  # of the band
ATTEMPTS, A_DAY = 120, 12
RHYTHMS = {
    "even eighths": ["1", "1+1/2", "2", "2+1/2", "3", "3+1/2", "4", "4+1/2"],
    "halves beside sixteenths": ["1", "3", "3+1/4", "3+1/2", "3+3/4", "4"],
}
FEW, MANY = 10, 40  # takes that a reach rests on
LADDER_BPM, LADDER_TAKES, SILENCES, BEATS = 96.0, 80, 4, 4.0
SHORTEST = 1.0  # ours: of a true reach that is looked for, in beats


@dataclass
class ReachTally:
    """How far reaches lie from the truth, in octaves, how often their ranges hold it, and how far at best."""

    off: list[float] = field(default_factory=list)
    held: list[bool] = field(default_factory=list)
    off_at_best: list[float] = field(default_factory=list)
    off_expected: list[float] = field(default_factory=list)
    held_expected: list[bool] = field(default_factory=list)

    @property
    def bias(self) -> float:
        """Mean of how far they are off."""
        return float(np.mean(self.off)) if self.off else float("nan")

    @property
    def rms(self) -> float:
        """Root of the mean square."""
        return _root_mean_square(self.off)

    @property
    def rms_at_best(self) -> float:
        """The same of one who sees the true returns."""
        return _root_mean_square(self.off_at_best)

    @property
    def covered(self) -> float:
        """In percent."""
        return _percent(self.held)

    @property
    def rms_expected(self) -> float:
        """The same of what clock and lean let expect."""
        return _root_mean_square(self.off_expected)

    @property
    def covered_expected(self) -> float:
        """In percent."""
        return _percent(self.held_expected)

    def add(self, truth: float, found: Reach, best: float, expected: Predicted | None) -> None:
        """Note what is said of a player whose true reach is known."""
        self.off_at_best.append(log2(best / truth))
        if found.beats and found.ci95_beats:
            self.off.append(log2(found.beats / truth))
            self.held.append(found.ci95_beats[0] <= truth <= found.ci95_beats[1])
        if expected:
            self.off_expected.append(log2(expected.beats / truth))
            self.held_expected.append(expected.ci95_beats[0] <= truth <= expected.ci95_beats[1])


def _percent(held: list[bool]) -> float:
    return 100 * float(np.mean(held)) if held else float("nan")


def _root_mean_square(values: list[float]) -> float:
    return float(np.sqrt(np.mean(np.square(values)))) if values else float("nan")


def reaches(*, seed: int, players: int) -> Iterator[tuple[float, int, ReachTally]]:
    """Yield hand, number of takes, and how true reaches are of so many players with that hand."""
    for hand_ms in HANDS_MS:
        tallies = {FEW: ReachTally(), MANY: ReachTally()}
        for index in range(players):
            rng = np.random.default_rng([seed, index, round(hand_ms)])
            bpm, notes = TEMPOS[rng.integers(4)], NOTES[rng.integers(4)]
            player = _player(rng, hand_ms)
            plans = [silent_drill(bpm, notes, silent) for silent in SILENT]
            truth = true_reach(player, notes, bpm)
            if truth < SHORTEST:
                continue  # shorter than any silence that is played
            read = [_take(plans[take % len(plans)], player, rng) for take in range(MANY)]
            leaves = partial(_start_var, player, hand=hand_ms / beat_ms(bpm))
            for takes, tally in tallies.items():
                some = read[:takes]
                seen = [(notes, one.seen) for one in some if one.seen]
                returns = replace(reduce(joined, (one.returns for one in some)), walk=walk_of(seen))
                best = reach_at_best(returns.beats, np.concatenate([one.true_beats for one in some]), leaves)
                tally.add(truth, reach(returns), best, expected_at(bpm, returns, [one.leans for one in some], seen))
        for takes, tally in tallies.items():
            yield hand_ms, takes, tally


def silent_drill(bpm: float, notes: int, silent: int) -> Schedule:
    """Return a drill of two heard cycles of four beats and some silent ones, over and over."""
    silence = {"kind": "fixed", "heard": 2, "silent": silent}
    plain = {"giusto": "drill/1", "tempo": {"bpm": bpm}, "cycle": {"beats": 4}, "part": {"grid": notes}}
    clicks = {"on": ["1", "2", "3", "4"], "silence": silence}
    return schedule(validate(plain | {"clicks": clicks, "cycles": (2 + silent) * max(12 // (2 + silent), 2)}))


def true_reach(player: SimulatedPlayer, notes: int, bpm: float) -> float:
    """Return the length that a player truly holds three times in four, in beats.

    Notes
    -----
    A beat adds clock²/notes to what the clock strays by, and a click takes back alpha of what is heard, the hand in it:
    so far off the clock stands when the click leaves, and from there it walks and leans.
    """
    walk = player.clock_percent / 100 / sqrt(notes)
    start_var = _start_var(player, np.array([walk]), hand=player.hand_ms / beat_ms(bpm))
    lean = 1 / (1 + player.bias_percent / 100) - 1
    beats = 2.0 ** np.arange(-2, 9, 0.01)
    sd = np.sqrt(start_var + walk**2 * beats)
    held = ndtr((HELD_SHARE - lean * beats) / sd) - ndtr((-HELD_SHARE - lean * beats) / sd)
    return float(beats[np.argmax(held < HELD_OFTEN)])


def _start_var(player: SimulatedPlayer, walk: FloatArray, *, hand: float) -> FloatArray:
    """Return the variance of where the click leaves clocks of some walk, in beats²."""
    var: FloatArray = ((player.alpha * hand) ** 2 + walk**2) / (1 - (1 - player.alpha) ** 2)
    return var


def _player(rng: np.random.Generator, hand_ms: float) -> SimulatedPlayer:
    return SimulatedPlayer(
        bias_percent=float(rng.normal(0, 0.8)),
        clock_percent=float(rng.uniform(0.6, 2.5)),
        hand_ms=hand_ms,
        alpha=float(rng.uniform(0.2, 0.7)),
        place_ms=float(rng.normal(-15, 10)),
    )


@dataclass(frozen=True, slots=True)
class _Take:
    """The returns of a take as they are read, and in truth; its leans, and what it showed of the noise sizes."""

    returns: Returns
    true_beats: FloatArray
    leans: tuple[FloatArray, FloatArray]
    seen: Seen | None


def _take(plan: Schedule, player: SimulatedPlayer, rng: np.random.Generator) -> _Take:
    played = simulate(plan, player, seed=int(rng.integers(2**31)))
    found = analyse(plan, played.onsets_s)
    silences = found.reading.silences
    was_read = [one.return_ms is not None and one.return_ci95_ms is not None for one in silences]
    true_beats = played.return_s[was_read] / plan.beat_s
    return _Take(returns_of_take(silences), true_beats, leans_of(found.reading), found.sizes)


def called_clean(*, seed: int, players: int) -> list[tuple[float, float, int]]:
    """Return for each tenth of the chance that is said its mean, the share that was truly clean, and how many takes."""
    said, truly = [], []
    for index in range(players):
        rng = np.random.default_rng([seed, index])
        bpm, notes = TEMPOS[rng.integers(4)], NOTES[rng.integers(4)]
        player, plan = _player(rng, HANDS_MS[index % 4]), silent_drill(bpm, notes, 1 + index % 2)
        before: Returns = NONE
        seen: list[tuple[int, Seen]] = []
        for _ in range(FEW):
            take = simulate(plan, player, seed=int(rng.integers(2**31)))
            analysis = analyse(plan, take.onsets_s)
            reading = analysis.reading
            found = margins(plan, reading, before=replace(before, walk=walk_of(seen)))
            before = joined(before, returns_of_take(reading.silences))
            seen += [(notes, analysis.sizes)] if analysis.sizes else []
            if found.chance is not None:
                said.append(found.chance)
                truly.append(bool(np.all(np.abs(take.return_s) <= HELD_SHARE * plan.beat_s)))
    chances, clean = np.array(said), np.array(truly, dtype=bool)
    tenth = np.minimum((10 * chances).astype(int), 9)
    rows = [(chances[tenth == k], clean[tenth == k]) for k in range(10)]
    return [(float(of.mean()), float(was.mean()), of.size) for of, was in rows if of.size]


@dataclass(frozen=True, slots=True)
class LadderTally:
    """How a ladder went for players who truly hold so many takes: by what is read, and by one who knows the truth."""

    clean: float
    sd_ms: float
    takes: float
    takes_by_truth: float
    rungs: float
    rungs_by_truth: float


def ladders(*, seed: int, players: int) -> Iterator[LadderTally]:
    """Yield for able and unable players, and returns read to 5, 10 and 15 ms at 96, how a ladder of five rungs goes.

    Takes of four silences of four beats, twelve a day, three clean in a row a rung, a rung down for what was not.
    """
    vary, rule = {"what": "tempo", "from": 60, "to": 76, "by": 4}, {"kind": "streak", "clean": 3}
    drill = silent_drill(60, 1, 1).drill.plain()
    ladder = ladder_of({"giusto": "ladder/1", "drill": drill, "vary": vary, "rule": rule})
    for clean in (0.9, 0.5):
        walk = HELD_SHARE / float(ndtri((1 + clean ** (1 / SILENCES)) / 2)) / sqrt(BEATS)
        for sd_ms in (5.0, 10.0, 15.0):
            rng = np.random.default_rng([seed, round(sd_ms), round(10 * clean)])
            found = [_climb(ladder, walk, sd_ms / beat_ms(LADDER_BPM), rng) for _ in range(players)]
            yield LadderTally(clean, sd_ms, *np.mean(found, axis=0).tolist())


def _climb(ladder: Ladder, walk: float, sd: float, rng: np.random.Generator) -> tuple[float, float, float, float]:
    """Return takes to the top (all where it isn't reached) and secure rungs, by what is read and by the truth."""
    before, states, tops = NONE, [State(), State()], [float(LADDER_TAKES)] * 2
    of_take, beats, sds = np.zeros(SILENCES, dtype=np.int64), np.full(SILENCES, BEATS), np.full(SILENCES, sd)
    for number in range(LADDER_TAKES):
        at = FIRST_DAY + timedelta(days=number // A_DAY, minutes=4 * (number % A_DAY))
        true = walk * sqrt(BEATS) * rng.standard_normal(SILENCES)
        read = Returns(of_take, beats, true + sd * rng.standard_normal(SILENCES), sds, np.ones(1))
        chance = held_chances(drift_of(joined(before, read)), read).all
        told = cleanness(Margins(SILENCES, 0, 0, None, None, None, 0.0, chance=chance, return_sd=sd))
        before = joined(before, read) if before.weight.size < MANY else before
        truly = bool(np.all(np.abs(true) <= HELD_SHARE))
        for which, (is_clean, said) in enumerate(((told.is_clean, chance), (truly, None))):
            if not states[which].done:
                rung = step_from(ladder, states[which], at=at).rung
                states[which] = climbed(ladder, [Attempt(at, rung, is_clean, 2.0, chance=said)], states[which])
                tops[which] = number + 1.0 if states[which].done else tops[which]
    return tops[0], tops[1], float(states[0].secure), float(states[1].secure)


def changes(*, seed: int, players: int) -> tuple[float, float]:
    """Return how often no change is called one, and how often one of three day's spreads over eight weeks is found."""
    rng = np.random.default_rng([seed, 1])
    false, found = [], []
    for _ in range(players):
        a_week, carry = int(rng.integers(5, 21)), float(rng.uniform(0, 0.9))
        weeks, days_sd = int(rng.integers(4, 11)), float(rng.uniform(0, 1))
        false.append(_is_sure(rng, weeks=weeks, a_week=a_week, days_sd=days_sd, carry=carry, change=0.0))
        found.append(_is_sure(rng, weeks=8, a_week=a_week, days_sd=1.0, carry=carry, change=3.0))
    return 100 * float(np.mean(false)), 100 * float(np.mean(found))


def _is_sure(rng: np.random.Generator, *, weeks: int, a_week: int, days_sd: float, carry: float, change: float) -> bool:
    """Return whether a change is told of a figure whose takes differ by 1 in truth, each read to 0.7."""
    span = 7 * weeks
    played = np.sort(rng.choice(span, size=min(5, a_week) * weeks, replace=False))
    on = np.sort(rng.choice(played, size=a_week * weeks))
    day = np.empty(span)
    day[0] = rng.normal()
    for k in range(1, span):
        day[k] = carry * day[k - 1] + sqrt(1 - carry**2) * rng.normal()
    errors = rng.normal(size=on.size) + READ_SD * rng.normal(size=on.size)
    values = days_sd * day[on] + errors + change * on / span
    days = [FIRST_DAY.date() + timedelta(days=int(k)) for k in on]
    found = course(values, np.full(on.size, READ_SD), days)
    return isinstance(found, Course) and found.more_than_chance


def rush_maps(*, seed: int, maps: int) -> Iterator[tuple[str, float]]:
    """Yield a rhythm, and how many maps of a hundred show a sure place though nobody leans."""
    for name, play in RHYTHMS.items():
        clicks = {"on": ["1", "2", "3", "4"]}
        plain = {"giusto": "drill/1", "tempo": {"bpm": 90}, "cycle": {"beats": 4}, "clicks": clicks, "cycles": 2}
        plan = schedule(validate(plain | {"part": {"grid": 4, "play": play}}))
        shown = []
        for index in range(maps):
            rng = np.random.default_rng([seed, index, len(play)])
            player = replace(_player(rng, HANDS_MS[index % 4]), bias_percent=0.0)
            takes = [simulate(plan, player, seed=int(rng.integers(2**31))) for _ in range(8)]
            found = map_of(plan, [analyse(plan, take.onsets_s).reading for take in takes])
            shown.append(not isinstance(found, Missing) and any(place.leans for place in found))
        yield name, 100 * float(np.mean(shown))


def bands(*, seed: int, learners: int) -> Iterator[tuple[float, float, float, float]]:
    """Yield by what a skill rises an attempt, its slope, and in percent how many proposals are right, and takes clean.

    Right is in the band, or nearest to it; from the twelfth attempt on.
    """
    ladder = ladder_of(
        {
            "giusto": "ladder/1",
            "drill": silent_drill(60, 1, 1).drill.plain(),
            "vary": {"what": "tempo", "from": 60, "to": 120, "by": 4},
            "rule": {"kind": "band", "low": LOW, "high": HIGH},
        }
    )
    for gain, slope in ((0.0, 0.8), (0.0, 2.0), (0.02, 0.8), (0.035, 2.0)):
        found = [_proposals(ladder, gain, slope, seed=[seed, index]) for index in range(learners)]
        inside, clean = np.mean(found, axis=0)
        yield gain, slope, 100 * float(inside), 100 * float(clean)


def _proposals(ladder: Ladder, gain: float, slope: float, *, seed: list[int]) -> tuple[float, float]:
    rng, state = np.random.default_rng(seed), State()
    skill, inside, clean = 2.5 + float(rng.uniform(0, 4)), [], []
    rungs = np.arange(1, len(ladder.values) + 1)
    for number in range(ATTEMPTS):
        at = FIRST_DAY + timedelta(days=number // A_DAY, minutes=4 * (number % A_DAY))
        rung = step_from(ladder, state, at=at).rung
        chances = 1 / (1 + np.exp((rungs - skill) / slope))
        off = np.maximum(np.maximum(LOW - chances, chances - HIGH), 0.0)
        is_clean = bool(rng.random() < chances[rung - 1])
        if number >= A_DAY:
            inside.append(off[rung - 1] <= off.min() + 1e-9)
            clean.append(is_clean)
        state = climbed(ladder, [Attempt(at, rung, is_clean, 2.0)], state)
        skill += gain
    return float(np.mean(inside)), float(np.mean(clean))
