"""The rush map: leans that were put in are found at their notes, and chance is no place."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giusto.drill import Drill, validate
from giusto.missing import Missing
from giusto.notes.record import notes_of
from giusto.practice.rush import (
    FITTED,
    LEAST_SD_MS,
    Lean,
    PassageTake,
    _Gains,
    _gains,
    _groups,
    _line,
    _means,
    _settled,
    _Spread,
    _without_tempo,
    rush_map,
    turn_of,
)
from giusto.reading import Reading, analyse
from giusto.reading.format import Match, Missed
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import plain as plain_drill

# Two bars, four times: quarters, then eighths; every beat clicks.
PLAY = [{"cycles": 1, "at": ["1", "2", "3", "4"]}, {"cycles": 1, "at": ["1", "1+1/2", "2", "2+1/2", "3", "4"]}]
PASSAGE = validate(
    {
        "giusto": "drill/1",
        "tempo": {"bpm": 90},
        "cycle": {"beats": 4},
        "clicks": {"on": ["1", "2", "3", "4"]},
        "part": {"grid": 2, "play": PLAY},
        "cycles": 8,
    }
)
EVEN = SimulatedPlayer(clock_percent=0.8, hand_ms=5.0, alpha=0.4)


def read(seed: int, early_ms: float = 0.0, drill: Drill = PASSAGE, player: SimulatedPlayer = EVEN) -> Reading:
    """Return a take's reading; from the third beat of each second bar to its end, notes come so much early."""
    plan = schedule(drill)
    onsets_s = simulate(plan, player, seed=seed).onsets_s
    asked_s = plan.seconds(plan.notes.tick)
    bar_s = 4 * 60 / 90
    in_bar = (asked_s - asked_s[0]) % (2 * bar_s)
    place = np.argmin(np.abs(onsets_s[:, None] - asked_s[None, :]), axis=1)
    shift_s = np.where(in_bar[place] > 1.5 * bar_s - 0.01, early_ms / 1000, 0.0)
    return analyse(plan, notes_of(np.sort(onsets_s - shift_s))).reading


def mapped(readings: list[Reading]) -> list[Lean] | Missing:
    """Return the rush map of takes of both bars."""
    return rush_map([PassageTake([*reading.matches, *reading.missed], first=1, bars=2) for reading in readings])


def leaning(found: list[Lean] | Missing) -> list[tuple[int, str]]:
    """Return the places that lean."""
    assert not isinstance(found, Missing), found
    return [(one.bar, one.position) for one in found if one.leans]


def gains_of(rows: list[tuple[int, str, float, float]]) -> _Gains:
    """Return gains by take, place in the first bar, size and step."""
    take, position, gain_ms, step = zip(*rows, strict=True)
    names = list(dict.fromkeys(position))
    place = np.array([names.index(one) for one in position])
    return _Gains(np.array(take), place, np.array(gain_ms), np.array(step), [(1, one) for one in names])


def variance(spread: _Spread, step: float) -> float:
    """Return the variance of one gain over a step."""
    return float(spread.of(np.array([step]))[0][0])


class RushTests(TestCase):
    def test_a_note_that_comes_early_again_and_again_is_found_by_bar_and_beat(self) -> None:
        found = mapped([read(seed, early_ms=25) for seed in range(6)])
        self.assertEqual(leaning(found), [(1, "1"), (2, "3")])  # into the third beat, and back at the next bar
        third = next(one for one in found if (one.bar, one.position) == (2, "3"))  # type: ignore[union-attr]
        self.assertLess(third.ci95_ms[0], -25)
        self.assertGreater(third.ci95_ms[1], -25)
        self.assertEqual(third.takes, 6)

    def test_chance_makes_no_place(self) -> None:
        """Of ten maps of even players at most one may show a place: 5 % each, and 10 of them 2 with chance 0.09."""
        shown = [leaning(mapped([read(10 * k + seed) for seed in range(4)])) for k in range(10)]
        self.assertLessEqual(sum(map(bool, shown)), 1, shown)

    def test_a_steady_drift_is_a_tempo_and_no_place(self) -> None:
        fast = SimulatedPlayer(clock_percent=0.5, hand_ms=4.0, bias_percent=2.0)
        self.assertEqual(leaning(mapped([read(seed, player=fast) for seed in range(4)])), [])

    def test_bars_that_are_one_cycle_are_told_apart(self) -> None:
        joined = [*PLAY[0]["at"], "5", "5+1/2", "6", "6+1/2", "7", "8"]  # type: ignore[misc]
        plain = PASSAGE.plain() | {"cycle": {"beats": 8}, "part": {"grid": 2, "play": joined}, "cycles": 4}
        plain["clicks"]["on"] = [str(beat) for beat in range(1, 9)]
        readings = [read(seed, early_ms=25, drill=validate(plain)) for seed in range(6)]
        found = rush_map([PassageTake([*one.matches, *one.missed], first=5, bars=2, beats=(4, 4)) for one in readings])
        self.assertEqual(leaning(found), [(5, "1"), (6, "3")])

    def test_places_come_in_the_order_of_the_bars(self) -> None:
        found = mapped([read(seed) for seed in range(3)])
        assert not isinstance(found, Missing)
        places = [(one.bar, one.position) for one in found]
        asked = [(1, place) for place in PLAY[0]["at"]] + [(2, place) for place in PLAY[1]["at"]]  # type: ignore[attr-defined]
        self.assertEqual(places, asked)

    def test_a_note_stands_in_a_round_and_a_bar_of_it(self) -> None:
        """Three cycles a round from bar 5 on; and where one cycle holds bars of 4, 3 and 4 beats, by its beats."""
        by_cycle = PassageTake([], first=5, bars=3)
        places = [by_cycle.place(Missed(cycle, "2", 0.0)) for cycle in (1, 3, 4, 8)]
        self.assertEqual(places, [(0, (5, "2")), (0, (7, "2")), (1, (5, "2")), (2, (6, "2"))])
        by_beats = PassageTake([], first=5, bars=3, beats=(4, 3, 4))
        places = [by_beats.place(Missed(2, position, 0.0)) for position in ("4+1/2", "5", "7+1/2", "8", "11")]
        self.assertEqual(places, [(1, (5, "4+1/2")), (1, (6, "1")), (1, (6, "3+1/2")), (1, (7, "1")), (1, (7, "4"))])

    def test_a_place_takes_four_times(self) -> None:
        """Three takes of one round show nothing of its second bar, four do."""
        once = PASSAGE.plain() | {"cycles": 2}
        for takes, is_shown in ((3, False), (4, True)):
            found = mapped([read(seed, drill=validate(once)) for seed in range(takes)])
            assert not isinstance(found, Missing)
            self.assertEqual(any(one.bar == 2 for one in found), is_shown, takes)
            self.assertTrue(all(one.times >= 4 for one in found))

    def test_what_is_played_on_hearing_the_click_again_is_no_place(self) -> None:
        """Four beats of it, whatever the tempo: their notes are as if they had been missed."""
        for bpm in (50, 160):
            silence = {"kind": "fixed", "heard": 2, "silent": 2}
            plain = {"giusto": "drill/1", "tempo": {"bpm": bpm}, "cycle": {"beats": 4}, "cycles": 8}
            plain |= {"part": {"grid": 2}, "clicks": {"on": ["1", "2", "3", "4"], "silence": silence}}
            plan = schedule(validate(plain))
            reading = analyse(plan, plan.seconds(plan.notes.tick)).reading
            back_s = [float(plan.seconds(one.end_tick)) for one in plan.silences]
            settled = {note.expected_s for note in _settled(plan, reading) if isinstance(note, Match)}
            left_out = sorted({note.expected_s for note in reading.matches} - settled)
            beats = [(at - max(one for one in back_s if one <= at + 0.01)) * bpm / 60 for at in left_out]
            self.assertEqual(sorted({round(beat, 3) for beat in beats}), [k / 2 for k in range(8)])

    def test_two_takes_say_nothing(self) -> None:
        self.assertEqual(mapped([read(1), read(2)]), Missing("places", "few-takes", 2, 3))

    def test_after_how_many_cycles_a_part_begins_again(self) -> None:
        self.assertEqual(turn_of(validate(plain_drill())), 1)
        turns = [{"at": ["1", "3"], "cycles": 2}, {"at": ["2"], "cycles": 3}]
        self.assertEqual(turn_of(validate(plain_drill(play=turns))), 5)
        self.assertEqual(turn_of(validate(plain_drill(play=["1", "3"]))), 1)


class SpreadTests(TestCase):
    """How far gains vary: about each take's own mean, by the length of their steps."""

    def gains(self, sizes: np.ndarray, step: float) -> _Gains:
        """Return gains of a place, a row a take."""
        return gains_of([(take, "1", float(size), step) for take, row in enumerate(sizes) for size in row])

    def test_many_gains_vary_as_numpy_has_it_within_takes(self) -> None:
        sizes = np.random.default_rng(1).normal(0, 6, (40, 8)) + 30 * np.arange(40)[:, None]
        within = float(np.mean(np.var(sizes, axis=1, ddof=1)))
        self.assertAlmostEqual(variance(_Spread(self.gains(sizes, 0.5)), 0.5), within, delta=0.02 * within)

    def test_twice_as_far_apart_is_four_times_the_variance(self) -> None:
        sizes = np.random.default_rng(2).normal(0, 5, (3, 4))
        one, other = (variance(_Spread(self.gains(factor * sizes, 0.5)), 0.5) for factor in (1, 2))
        self.assertAlmostEqual(other / one, 4.0, delta=1e-6)


class ByHandTests(TestCase):
    """Gains and steps that are written down."""

    def test_what_varies_whatever_the_step_and_what_grows_with_its_square(self) -> None:
        steps = np.array([1.0, 2.0, 4.0])
        self.assertEqual(_line(np.zeros(0), np.zeros(0), np.zeros(0)), (0.0, 0.0))
        np.testing.assert_allclose(_line(steps, 30 + 5 * steps**2, np.array([9.0, 9.0, 2.0])), (30, 5))
        hand, clock = _line(steps, np.array([50.0, 40.0, 10.0]), np.full(3, 5.0))  # it falls: nothing grows
        self.assertEqual(clock, 0.0)
        self.assertGreater(hand, 0.0)

    def test_a_line_by_weighed_least_squares(self) -> None:
        """Each variance as sure as its degrees of freedom over its square have it; by numpy."""
        steps, free = np.array([1.0, 1.5, 2.0, 3.0]), np.array([40.0, 3.0, 20.0, 7.0])
        variance = np.array([22.0, 40.0, 33.0, 80.0])
        weight = np.sqrt(free) / variance
        design = np.column_stack([np.ones(4), steps**2]) * weight[:, None]
        np.testing.assert_allclose(_line(steps, variance, free), np.linalg.lstsq(design, variance * weight)[0])

    def test_gains_about_whose_mean_they_vary(self) -> None:
        twice = gains_of([(0, "2", 1.0, 1.0), (0, "2", 3.0, 1.0), (1, "2", 9.0, 1.0), (1, "3", 2.0, 1.0)])
        first, again, alone, elsewhere = _groups(twice)
        self.assertEqual(first, again)
        self.assertEqual(len({first, alone, elsewhere}), 3)  # one alone in its take tells nothing of how they vary
        once = _groups(gains_of([(take, place, float(take), 1.0) for take in range(3) for place in ("2", "3")]))
        self.assertEqual(len(set(once[::2])), 1)
        self.assertEqual(len(set(once)), 2)

    def test_the_variance_of_a_gain_leans_on_the_line_by_six(self) -> None:
        some = [(0, "2", gain, 1.0) for gain in (0.0, 10.0, 20.0, 30.0)]
        other = [(0, "3", gain, 2.0) for gain in (0.0, 30.0, 60.0)]
        spread = _Spread(gains_of([*some, *other, (0, "4", 7.0, 3.0)]))
        own = sum((gain - 15.0) ** 2 for gain in (0.0, 10.0, 20.0, 30.0))
        far = sum((gain - 30.0) ** 2 for gain in (0.0, 30.0, 60.0))
        hand, clock = _line(np.array([1.0, 2.0]), np.array([own / 3, far / 2]), np.array([3.0, 2.0]))
        self.assertAlmostEqual(variance(spread, 1.0), (own + FITTED * (hand + clock)) / (3 + FITTED))
        self.assertAlmostEqual(variance(spread, 2.0), (far + FITTED * (hand + 4 * clock)) / (2 + FITTED))
        self.assertAlmostEqual(variance(spread, 3.0), hand + 9 * clock)  # of a length of which there is one
        self.assertEqual(spread.of(np.array([1.0, 3.0]))[1].tolist(), [3 + FITTED, FITTED])
        alike = _Spread(gains_of([(0, "2", 5.0, 1.0)] * 4))
        self.assertEqual(variance(alike, 1.0), LEAST_SD_MS**2)

    def test_a_place_in_each_take_is_the_mean_of_its_rounds(self) -> None:
        means = _means(gains_of([(0, "2", 1.0, 1.0), (0, "3", 7.0, 2.0), (0, "2", 3.0, 1.5), (4, "2", 9.0, 0.5)]))
        self.assertEqual(means.place.tolist(), [0, 1, 0])
        self.assertEqual(means.gain_ms.tolist(), [2.0, 7.0, 9.0])
        self.assertEqual(means.step.tolist(), [1.0, 2.0, 0.5])
        self.assertEqual(means.times.tolist(), [2, 1, 1])

    def test_a_rounds_own_tempo_is_taken_off_in_proportion_to_time(self) -> None:
        gain_ms = np.array([10.0, 20.0, 30.0, 5.0, np.nan, 7.0, 9.0])
        lasts_s = np.array([1.0, 2.0, 1.0, 1.0, 1.0, 1.0, 1.0])
        rounds = np.array([1, 1, 1, 2, 2, 2, 3])
        found = _without_tempo(gain_ms, lasts_s, rounds)
        np.testing.assert_allclose(found[:3], [10 - 15, 20 - 30, 30 - 15])
        np.testing.assert_allclose(found[[3, 5]], [-1.0, 1.0])
        self.assertTrue(np.isnan(found[4]))
        self.assertTrue(np.isnan(found[6]))  # one alone has no tempo of its own to lean against

    def test_steps_are_of_the_shortest_and_two_notes_show_nothing(self) -> None:
        plan = schedule(PASSAGE)
        take = PassageTake(analyse(plan, notes_of(plan.seconds(plan.notes.tick))).reading.matches, first=1, bars=1)
        self.assertEqual(_gains([PassageTake(take.notes[:2], first=1, bars=1)]).gain_ms.size, 0)
        gains = _gains([PassageTake([], first=1, bars=1), take, take])
        self.assertEqual(set(gains.take.tolist()), {1, 2})
        self.assertEqual(gains.step.min(), 1.0)
        self.assertEqual(gains.gain_ms.size, 2 * (len(take.notes) - 1))
        np.testing.assert_allclose(gains.gain_ms, 0.0, atol=0.01)
