"""What kind of take it is, by takes that are written note by note: the click's grid, and what was done with it."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from giusto.arrays import BoolArray, FloatArray
from giusto.figures.doubles import Doubles
from giusto.practice.finding import Finding
from giusto.practice.played import _struck_by, against_asked
from giusto.reading import analyse
from giusto.schedule import Schedule
from tests.drills import fixed, planned

PLAN = planned(grid=2, bpm=90, cycles=16, silence=fixed(2, 2))  # eighths of a third of a second
ASKED_S = PLAN.seconds(PLAN.notes.tick)
EIGHTHS = np.arange(ASKED_S.size)


def told(onsets_s: FloatArray, plan: Schedule = PLAN) -> list[Finding]:
    """Return what is told of some onsets; hands even to 2 ms, so that nothing is exact."""
    even = np.random.default_rng(1).normal(0, 0.002, onsets_s.size)
    onsets_s = np.sort(onsets_s + even)
    return against_asked(plan, analyse(plan, onsets_s).reading)


def alone() -> BoolArray:
    """Return which asked notes lie inside a silence."""
    tick = PLAN.notes.tick
    inside = np.zeros(tick.size, dtype=bool)
    for silence in PLAN.silences:
        inside |= (tick > silence.start_tick) & (tick < silence.end_tick)
    return inside


class PlayedTests(TestCase):
    def one(self, onsets_s: FloatArray, plan: Schedule = PLAN) -> Finding:
        found = told(onsets_s, plan)
        self.assertEqual(len(found), 1, found)
        return found[0]

    def test_what_was_asked_tells_nothing(self) -> None:
        self.assertEqual(told(ASKED_S), [])
        self.assertEqual(told(np.delete(ASKED_S, [5, 40, 77])), [])
        self.assertEqual(told(np.append(ASKED_S, ASKED_S[[9, 30]] + 0.15)), [])

    def test_every_second_note_is_half_of_them(self) -> None:
        found = self.one(ASKED_S[::2])
        self.assertEqual((found.code, found.size, found.n, found.where), ("half", 2, ASKED_S.size // 2, None))
        self.assertEqual(self.one(ASKED_S[::4]).size, 4)

    def test_every_second_note_of_silences_only(self) -> None:
        found = self.one(ASKED_S[~alone() | (EIGHTHS % 2 == 0)])
        self.assertEqual((found.code, found.size, found.where), ("half", 2, "alone"))

    def test_nothing_in_any_silence(self) -> None:
        found = self.one(ASKED_S[~alone()])
        self.assertEqual((found.code, found.size), ("stopped-alone", len(PLAN.silences)))

    def test_strokes_that_bounce_and_twice_the_notes(self) -> None:
        found = self.one(np.append(ASKED_S, ASKED_S + 0.06))
        self.assertEqual(found.code, "doubled")
        self.assertAlmostEqual(found.size, 60, delta=2)
        twice = self.one(np.append(ASKED_S, ASKED_S + 1 / 6))
        self.assertEqual((twice.code, twice.size), ("double", 2))

    def test_whose_the_second_strokes_are(self) -> None:
        """Seven in ten of them, of one kind."""
        reading = analyse(PLAN, ASKED_S).reading
        for doubles, whose in (
            (Doubles(20, 30.0, 14, 6), "other"),
            (Doubles(20, 30.0, 6, 14), "same"),
            (Doubles(20, 30.0, 13, 7), None),
            (Doubles(20, 30.0, None, None), None),
            (None, None),
        ):
            with self.subTest(doubles):
                self.assertEqual(_struck_by(replace(reading, doubles=doubles)), whose)

    def test_triplets_for_eighths_are_another_part(self) -> None:
        """The beats as asked, and two notes between them in place of one."""
        beats = ASKED_S[::2]
        found = self.one(np.concatenate([beats, beats + 2 / 9, beats + 4 / 9]))
        self.assertEqual((found.code, found.where), ("other-part", "1/3"))

    def test_a_tempo_of_ones_own_all_through(self) -> None:
        plan = planned(grid=2, bpm=96, cycles=16, silence=fixed(2, 1))
        asked_s = plan.seconds(plan.notes.tick)
        found = self.one(asked_s[0] + (asked_s - asked_s[0]) * 96 / 92.8, plan)
        self.assertEqual(found.code, "own-tempo")
        self.assertAlmostEqual(found.size, 92.8, delta=0.2)
        low, high = found.ci95 or (0.0, 0.0)
        self.assertTrue(low <= 92.8 <= high)

    def test_a_figure_begun_on_another_beat(self) -> None:
        """Three figures, with silences and without, beats and halves late and early; in its place nothing is told."""
        for play in (["1", "2+1/2", "4"], ["1", "1+1/2", "2", "3", "4"], ["1", "2+1/2", "3+1/2"]):
            for silence in (fixed(2, 2), None):
                plan = planned(bpm=96, grid=2, play=play, silence=silence, cycles=16)
                asked_s = plan.seconds(plan.notes.tick)
                for beats in (1, -1, 2, 0.5, -1.5, 0):
                    moved = asked_s + beats * plan.beat_s
                    found = told(moved[(moved > asked_s[0] - 0.1) & (moved < asked_s[-1] + 0.1)], plan)
                    with self.subTest(play=play, silence=silence, beats=beats):
                        sizes = [abs(one.size) if abs(beats) == 2 else one.size for one in found]
                        self.assertEqual(
                            ([one.code for one in found], sizes), (["beat-off"], [beats]) if beats else ([], [])
                        )

    def test_beats_late_with_the_click_again_each_time(self) -> None:
        """The first two beats of each return are left out, and nothing else."""
        tick = PLAN.notes.tick
        late = np.zeros(tick.size, dtype=bool)
        for silence in PLAN.silences:
            late |= (tick >= silence.end_tick) & (tick < silence.end_tick + 2 * PLAN.ticks_per_beat)
        found = self.one(ASKED_S[~late])
        self.assertEqual((found.code, found.size), ("late-back", 2.0))
        once = (tick >= PLAN.silences[0].end_tick) & (tick < PLAN.silences[0].end_tick + 2 * PLAN.ticks_per_beat)
        self.assertEqual(told(ASKED_S[~once]), [])

    def test_who_joins_in_the_third_cycle_is_told_so(self) -> None:
        found = told(ASKED_S[PLAN.notes.cycle >= 3])
        self.assertEqual([(one.code, one.size) for one in found], [("joined-late", 3)])

    def test_who_stops_in_the_last_silence(self) -> None:
        last = PLAN.silences[-1]
        middle = (last.start_tick + last.end_tick) // 2
        found = told(ASKED_S[PLAN.notes.tick < middle])
        self.assertEqual([(one.code, one.where) for one in found], [("stopped-in-silence", str(len(PLAN.silences)))])
        self.assertAlmostEqual(found[0].size, 0, delta=8)

    def test_notes_at_random_are_not_this_drill(self) -> None:
        random_s = np.sort(np.random.default_rng(3).uniform(3, float(ASKED_S[-1]), ASKED_S.size))
        self.assertEqual([one.code for one in told(random_s)], ["not-this-drill"])
