"""Of which drill a recording is: simulated recordings, set against drills that are near each other."""

from __future__ import annotations

import tempfile
from math import log
from pathlib import Path
from unittest import TestCase

import numpy as np

from giusto.hearing.sound import Samples
from giusto.hearing.which import Fit, _notes, _sorted, of_sound, which
from giusto.notes.csv_file import write_notes
from giusto.notes.record import notes_of
from giusto.simulation.instrument import Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned

HAND = SimulatedPlayer(bias_percent=-1.2, clock_percent=0.9, hand_ms=8.0, place_ms=-12.0)
TWO_ALONE = {"kind": "fixed", "heard": 2, "silent": 2}
DRILLS = (
    {"silence": TWO_ALONE},
    {"silence": TWO_ALONE, "bpm": 97},
    {"silence": None},
    {"silence": {"kind": "fixed", "heard": 1, "silent": 3}},
    {"silence": TWO_ALONE, "grid": 4},
)
PLANS = [planned(cycles=8, **drill) for drill in DRILLS]
RATE_HZ = 44_100


def found(number: int, bleed_db: float | None, sound: str = "skin") -> list[Fit]:
    """Return what a recording of one of the drills may be of."""
    plan = PLANS[number]
    onsets_s = simulate(plan, HAND, seed=number).onsets_s
    samples = recording(plan, onsets_s, Room(sound, bleed_db, -60.0, 40.0, 120.0), seed=number)
    return of_sound(Samples(samples, RATE_HZ), PLANS)


class WhichTests(TestCase):
    def test_by_the_click_that_is_heard_in_it(self) -> None:
        """Its tempo to one beat a minute, which bars it leaves out; alike in that, by the notes."""
        for number in range(len(PLANS)):
            with self.subTest(DRILLS[number]):
                fits = found(number, -25.0)
                self.assertEqual((fits[0].number, fits[0].by), (number, "clicks"))
                self.assertGreater(fits[0].share, 0.9)

    def test_an_instrument_that_sounds_as_the_click_does_hides_most_of_it(self) -> None:
        fits = found(1, -25.0, "wood")
        self.assertEqual((fits[0].number, fits[0].by), (1, "clicks"))

    def test_without_a_click_by_the_notes_and_what_they_cannot_tell_apart_is_left_to_the_player(self) -> None:
        fits = found(4, None)
        self.assertEqual((fits[0].number, fits[0].by), (4, "notes"))
        self.assertLessEqual({0, 2, 3}, {one.number for one in found(0, None)})

    def test_a_list_of_onsets(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "take"
            path.write_text(write_notes(notes_of(simulate(PLANS[4], HAND, seed=1).onsets_s + 3.0)))
            self.assertEqual(which(path, PLANS)[0].number, 4)

    def test_what_is_of_none_of_them(self) -> None:
        other = planned(cycles=8, bpm=71, beats=3, on=["1"], grid=1)
        samples = recording(other, simulate(other, HAND, seed=2).onsets_s, Room("skin", -25.0, -60.0), seed=2)
        self.assertEqual(of_sound(Samples(samples, RATE_HZ), PLANS[:2]), [])


class FitTests(TestCase):
    """What speaks for a drill, by counts that are written down."""

    def test_the_share_is_of_what_is_asked_and_of_what_is_there(self) -> None:
        self.assertEqual(Fit(0, "clicks", 6, 8).share, 0.75)
        self.assertEqual(Fit(0, "notes", 6, 8, 2).share, 0.75)
        self.assertEqual(Fit(0, "notes", 6, 8, 6).share, 0.5)
        self.assertEqual(
            [Fit(0, "notes", 0, asked, others).share for asked, others in ((0, 0), (1, 0), (0, 3))], [0] * 3
        )
        self.assertEqual(Fit(0, "notes", 1, 1).share, 1.0)

    def test_the_weight_of_clicks_is_their_log_likelihood_against_chance(self) -> None:
        """Binomial, each click heard as often as they are, against the three in a hundred of nothing."""
        self.assertAlmostEqual(Fit(0, "clicks", 6, 8).weight, 6 * log(0.75 / 0.03) + 2 * log(0.25 / 0.97))
        self.assertAlmostEqual(Fit(0, "clicks", 8, 8).weight, 8 * log(0.99 / 0.03))
        self.assertAlmostEqual(Fit(0, "clicks", 0, 8).weight, 0.0)

    def test_the_weight_of_notes_counts_what_lacks_twice_and_what_is_elsewhere_once(self) -> None:
        self.assertEqual(Fit(0, "notes", 20, 24, 3).weight, 20 - 2 * 4 - 3)

    def test_what_is_much_less_likely_than_the_best_is_left_out(self) -> None:
        fits = [Fit(k, "notes", found, 10) for k, found in enumerate((8, 10, 7, 6, 3))]  # weights 4, 10, 1, -2, -11
        self.assertEqual([one.number for one in _sorted(fits)], [1, 0])
        self.assertEqual([one.number for one in _sorted([Fit(0, "notes", 9, 10, 4), fits[1]])], [1, 0])  # 3 of 10
        self.assertEqual(_sorted([fits[3]]), [])
        self.assertEqual(_sorted([]), [])

    def test_notes_count_from_a_beat_before_the_first_to_a_beat_after_the_end(self) -> None:
        plan = planned(cycles=2)
        asked_s = plan.seconds(plan.notes.tick)
        end_s = float(plan.seconds(plan.end_tick))
        strays_s = [-1.5 * plan.beat_s, -0.5 * plan.beat_s, end_s + 0.9 * plan.beat_s, end_s + 1.1 * plan.beat_s]
        fit = _notes(1, np.sort(np.concatenate([asked_s, strays_s])), [PLANS[0], plan])
        self.assertEqual((fit.number, fit.by, fit.asked), (1, "notes", asked_s.size))
        self.assertEqual((fit.found, fit.others), (asked_s.size, 2))
        few = _notes(0, asked_s[:2], [plan])
        self.assertEqual((few.found, few.others), (0, 2))
