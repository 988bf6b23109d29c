"""The tempo all the way: by hand, beside scipy's regression, from simulated truth, and its ranges."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from scipy.stats import linregress

from giusto.arrays import FloatArray
from giusto.drill import validate
from giusto.figures.tempo_thread import PartTempo, TempoThread, _part, _spread, tempo_thread
from giusto.missing import Missing
from giusto.reading import analyse
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import plain


def played(bpm_of: FloatArray, *, grid: int = 2, clock: float = 0.0, hand_ms: float = 0.0, seed: int = 1) -> FloatArray:
    """Return onsets of a player whose tempo at each slot is given; clock and hand as Wing & Kristofferson have them."""
    generator = np.random.default_rng(seed)
    steps_s = 60 / bpm_of / grid * (1 + clock * generator.standard_normal(bpm_of.size))
    clock_s = 2.0 + np.concatenate([[0.0], np.cumsum(steps_s)])
    return clock_s + 0.001 * hand_ms * generator.standard_normal(clock_s.size)


def found(onset_s: FloatArray, **named: object) -> TempoThread:
    """Return the thread, which must be there."""
    thread = tempo_thread(onset_s, **{"asked_bpm": 100.0, "grid": 2, "cycle_beats": 4, **named})  # type: ignore[arg-type]
    assert isinstance(thread, TempoThread), thread
    return thread


class ThreadTests(TestCase):
    def test_an_even_take_by_hand(self) -> None:
        """96 eighths at 90 where 100 was asked: 0.333 s each, every piece at 90, and nothing changes."""
        thread = found(played(np.full(96, 90.0)))
        self.assertEqual((thread.beats, thread.verdict, thread.change_percent), (48.0, "steady", 0.0))
        self.assertEqual({piece.bpm for piece in thread.thread}, {90.0})
        self.assertEqual(len(thread.thread), 6)
        self.assertEqual(len(thread.sections), 4)

    def test_each_piece_stands_where_it_was_played(self) -> None:
        """48 beats at 90, a beat each two thirds of a second from 2 s on: from note to note on the beat."""
        onset_s = played(np.full(95, 90.0))
        thread = found(onset_s)
        for number, piece in enumerate(thread.thread):
            self.assertEqual(piece.beat, 8.0 * number)
            self.assertAlmostEqual(piece.time_s, 2 + (piece.beat + piece.beats / 2) * 60 / 90, places=3)
        self.assertEqual(thread.thread[-1].beats, 7.0)  # the last note stands off the beat

    def test_sections_begin_where_the_last_one_ended(self) -> None:
        thread = found(played(np.repeat([100.0, 110.0, 90.0], [32, 64, 32])), sections=(4, 8, 4))
        self.assertEqual([(one.beat, one.beats) for one in thread.sections], [(0.0, 16.0), (16.0, 32.0), (48.0, 16.0)])
        for one, bpm in zip(thread.sections, (100.0, 110.0, 90.0), strict=True):
            self.assertAlmostEqual(one.bpm, bpm, delta=0.01)

    def test_the_shortest_take_that_is_told_is_two_pieces_of_four_beats(self) -> None:
        self.assertEqual(found(played(np.full(16, 90.0))).beats, 8.0)
        shorter = tempo_thread(played(np.full(15, 90.0)), asked_bpm=100.0, grid=2, cycle_beats=4)
        self.assertIsInstance(shorter, Missing)

    def test_a_part_is_told_by_notes_that_span_half_of_it(self) -> None:
        """Of four beats, or of eight, two; of three two as well, since what is set together spans whole ones."""
        for beats, last, is_told in (
            (8, 3, False),
            (8, 4, True),
            (4, 4, True),
            (3, 3, False),
            (3, 4, True),
            (2, 2, True),
        ):
            slot = np.arange(last + 1)
            self.assertEqual(_part(0.25 * slot, slot, 2, 0.0, beats, 0.005) is not None, is_told, (beats, last))

    def test_the_spread_of_a_part_is_its_clocks_steps_and_the_hand_at_both_ends(self) -> None:
        """Four beats of eighths at 120 last 2 s: eight steps of 10 ms and two hands of 20 ms are 40 ms, 2 %."""
        part = PartTempo(beat=0.0, beats=4.0, time_s=1.0, bpm=120.0, ci95_bpm=(119.0, 121.0))
        self.assertAlmostEqual(_spread(part, 0.010, 0.020, 2), 0.02, places=12)

    def test_quarters_of_a_take_without_sections(self) -> None:
        thread = found(played(np.full(96, 90.0)))
        self.assertEqual([(one.beat, one.beats) for one in thread.sections], [(12.0 * k, 12.0) for k in range(4)])

    def test_of_two_notes_for_one_slot_the_nearer_is_the_note(self) -> None:
        """Notes 60 ms before those that begin a piece, and 60 ms after: neither moves a tempo."""
        onset_s = played(np.full(96, 90.0))
        extra_s = np.concatenate([onset_s[[16, 32, 64]] - 0.06, onset_s[[24, 48, 80]] + 0.06])
        thread = found(np.sort(np.concatenate([onset_s, extra_s])))
        self.assertEqual({piece.bpm for piece in (*thread.thread, *thread.sections)}, {90.0})

    def test_the_range_of_the_change_holds_hand_and_clock(self) -> None:
        """A hand of 6 ms alone is √2·6 ms over each quarter's length; a clock of 2 % is .02·√steps of a step."""
        for clock, hand_ms in ((0.0, 6.0), (0.02, 0.0)):
            halves = []
            for seed in range(12):
                low, high = found(
                    played(np.full(256, 100.0), clock=clock, hand_ms=hand_ms, seed=seed)
                ).change_ci95_percent
                halves.append((high - low) / 2)
            quarter_s, step_s = 32 * 0.6, 0.3
            one = np.sqrt(2 * (hand_ms / 1000) ** 2 + 64 * (clock * step_s) ** 2) / quarter_s
            ratio = float(np.mean(halves)) / (100 * 1.96 * np.sqrt(2) * one)
            if clock:
                self.assertAlmostEqual(ratio, 1.0, delta=0.35)
            else:  # steps of a hand alone may still hide some clock, which the range allows for
                self.assertTrue(1.0 <= ratio < 5.0, ratio)

    def test_hand_and_clock_are_told_apart_past_missing_notes(self) -> None:
        """By a hand alone of 6 ms ranges of pieces are √2·6 ms over their length; by a clock alone they are little."""
        fewer = [5, 6, 7, 40, 41, 90, 130, 131]
        for hand_ms, least, most in ((6.0, 0.75, 1.2), (0.0, 0.0, 0.4)):
            clock = 0.0 if hand_ms else 0.02
            wide = []
            for seed in range(12):
                onset_s = np.delete(played(np.full(256, 100.0), clock=clock, hand_ms=hand_ms, seed=seed), fewer)
                for piece in found(onset_s).thread:
                    span_s = 60 * piece.beats / piece.bpm
                    half = (piece.ci95_bpm[1] - piece.ci95_bpm[0]) / 2
                    wide.append(half / (1.96 * piece.bpm * np.sqrt(2) * 0.006 / span_s))
            with self.subTest(hand_ms):
                self.assertGreaterEqual(float(np.median(wide)), least)
                self.assertLessEqual(float(np.median(wide)), most)

    def test_a_take_that_rushes_in_its_second_half(self) -> None:
        thread = found(played(np.repeat([100.0, 106.0], 64), clock=0.01, hand_ms=4), sections=(8, 8))
        self.assertEqual(thread.verdict, "faster")
        low, high = thread.change_ci95_percent
        self.assertTrue(low < 6.0 < high, thread.change_ci95_percent)
        self.assertAlmostEqual(thread.sections[0].bpm, 100, delta=1.5)
        self.assertAlmostEqual(thread.sections[1].bpm, 106, delta=1.5)
        self.assertAlmostEqual(thread.start.bpm, 100, delta=1.5)

    def test_beside_a_regression_of_the_whole(self) -> None:
        """The mean of the pieces is the slope that scipy finds through all onsets."""
        onset_s = played(np.full(256, 103.0), clock=0.012, hand_ms=5)
        slope = linregress(np.arange(257) / 2, onset_s).slope
        mean = np.average([piece.bpm for piece in found(onset_s).thread])
        self.assertAlmostEqual(mean, 60 / slope, delta=0.4)

    def test_missing_doubled_and_swung_notes_change_nothing(self) -> None:
        onset_s = played(np.full(128, 96.0))
        swung = onset_s + 0.05 * (np.arange(129) % 2)
        fewer = np.delete(swung, [5, 6, 7, 40, 41, 90])
        doubled = np.sort(np.append(fewer, fewer[20] + 0.02))
        for piece in found(doubled).thread:
            self.assertAlmostEqual(piece.bpm, 96.0, places=2)
        for piece in found(swung).thread:
            self.assertLess(piece.ci95_bpm[1] - piece.ci95_bpm[0], 0.05)  # swing is no unevenness

    def test_an_extra_note_wherever_it_falls_gains_no_slot(self) -> None:
        onset_s = played(np.full(128, 96.0), hand_ms=4)
        for share in (0.2, 0.35, 0.5, 0.65, 0.8):
            extra_s = onset_s[60] + share * (onset_s[61] - onset_s[60])
            self.assertEqual(found(np.sort(np.append(onset_s, extra_s))).beats, 64.0, share)

    def test_a_tempo_far_from_the_asked_one_and_a_slow_turn(self) -> None:
        turned = found(played(np.linspace(125, 92, 300), clock=0.008, hand_ms=3))
        self.assertEqual(turned.verdict, "slower")
        self.assertAlmostEqual(turned.beats, 150.0)
        self.assertAlmostEqual(turned.thread[-1].bpm, 92, delta=2.5)

    def test_steady_players_are_called_steady(self) -> None:
        """False verdicts at most as often as a 95 % range lets expect: 12 of 120 would be by chance once in 500."""
        wrong = sum(
            found(played(np.full(128, 100.0), clock=0.015, hand_ms=6, seed=seed)).verdict != "steady"
            for seed in range(120)
        )
        self.assertLessEqual(wrong, 12)

    def test_the_ranges_of_the_pieces_hold_what_the_clock_did(self) -> None:
        held = []
        for seed in range(40):
            generator = np.random.default_rng(seed)
            clock_s = 2.0 + np.concatenate([[0.0], np.cumsum(0.3 * (1 + 0.015 * generator.standard_normal(128)))])
            onset_s = clock_s + 0.006 * generator.standard_normal(129)
            for piece in found(onset_s).thread:
                first, last = round(2 * piece.beat), round(2 * (piece.beat + piece.beats))
                truth = 60 * piece.beats / (clock_s[last] - clock_s[first])
                held.append(piece.ci95_bpm[0] <= truth <= piece.ci95_bpm[1])
        self.assertGreater(np.mean(held), 0.90)

    def test_too_little(self) -> None:
        """Sixteen notes, of which twelve steps go from slot to slot."""
        for notes, expected in ((16, None), (15, Missing("tempo", "few-notes", 15, 16))):
            few = tempo_thread(np.arange(float(notes)), asked_bpm=60, grid=1, cycle_beats=4)
            self.assertEqual(few if expected else None, expected)
        for steps, is_told in ((12, True), (11, False)):
            slots = np.concatenate([np.arange(steps + 1.0), steps + 2.0 * np.arange(1, 6)])
            found_few = tempo_thread(slots, asked_bpm=60, grid=1, cycle_beats=4)
            self.assertEqual(isinstance(found_few, TempoThread), is_told)
            if not is_told:
                self.assertEqual(found_few, Missing("tempo", "few-steps", steps, 12))
        self.assertIsInstance(tempo_thread(np.zeros(0), asked_bpm=60, grid=1, cycle_beats=4), Missing)


class ReadingTests(TestCase):
    def test_a_count_in_only_and_nothing_at_all(self) -> None:
        for count_in in (1, 0):
            clicks = {**plain()["clicks"], "on": [], "silence": None}
            drill = validate(plain() | {"giusto": "free/1", "clicks": clicks, "count_in": count_in, "close": 0})
            plan = schedule(drill)
            self.assertEqual(len(plan.clicks), 4 * count_in)
            onset_s = simulate(plan, SimulatedPlayer(bias_percent=0.0), seed=2).onsets_s
            reading = analyse(plan, onset_s, sections=(4, 4, 8)).reading
            assert reading.tempo
            self.assertEqual(len(reading.tempo.sections), 3)
            self.assertAlmostEqual(reading.tempo.start.bpm, drill.tempo.bpm, delta=5)

    def test_only_free_1_may_have_no_click(self) -> None:
        clicks = {**plain()["clicks"], "on": []}
        for version in ("drill/1", "drill/2"):
            with self.assertRaisesRegex(ValueError, r"clicks.on: is \[\], allowed is a list of at least 1"):
                validate(plain() | {"giusto": version, "clicks": clicks})
