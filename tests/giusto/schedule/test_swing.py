"""A click that swings (``drill/3``): heard, asked, written, drawn and read."""

import tempfile
from fractions import Fraction
from pathlib import Path
from unittest import TestCase

import numpy as np
import pretty_midi
from hypothesis import given
from hypothesis import strategies as st

from giusto.click.midi import write_midi
from giusto.drill import validate
from giusto.drill.file import swung
from giusto.drill.half_double import halved
from giusto.errors import DrillError, GiustoError
from giusto.notes.record import notes_of
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import plain, planned

BEATS = ["1", "2", "3", "4"]
OFFBEATS = [f"{beat}+1/2" for beat in BEATS]


class SwingTests(TestCase):
    def test_a_swing_of_two_is_the_triplets_last(self) -> None:
        """By hand: at 60 an offbeat swung 2 : 1 comes two thirds of a second after its beat (common practice)."""
        plan = planned(bpm=60, on=[*BEATS, *OFFBEATS], silence=None, swing=2, count_in=0, close=0, cycles=1)
        expected = [beat + part for beat in range(4) for part in (0, 2 / 3)]
        np.testing.assert_allclose(plan.seconds(plan.clicks.tick), expected, rtol=0, atol=1e-12)
        np.testing.assert_allclose(plan.seconds(plan.notes.tick), expected, rtol=0, atol=1e-12)
        written = [plan.position(offset) for offset in plan.clicks.offset.tolist()]
        self.assertEqual(written[:4], ["1", "1+1/2", "2", "2+1/2"])

    def test_only_halves_move(self) -> None:
        plan = planned(bpm=60, grid=4, silence=None, swing=2, subdivide=2, count_in=1, close=0, cycles=1)
        asked = plan.seconds(plan.notes.tick)[:4] - plan.seconds(plan.body_tick)
        np.testing.assert_allclose(asked, [0, 1 / 4, 2 / 3, 3 / 4], rtol=0, atol=1e-12)
        quiet = plan.clicks.tick[plan.kinds == "sub"]
        np.testing.assert_allclose(np.diff(plan.seconds(quiet)), 1, rtol=0, atol=1e-12)
        self.assertAlmostEqual(float(plan.seconds(quiet[0])), 4 + 2 / 3, places=12)
        self.assertTrue(np.all(np.diff(plan.seconds(plan.clicks.tick[plan.kinds == "count"])) == 1))

    def test_a_click_that_moves_onto_a_half_swings(self) -> None:
        shift = {"every_cycles": 1, "by": "1/2"}
        plan = planned(bpm=60, on=["1"], silence=None, swing=3, shift=shift, count_in=0, close=0, cycles=3)
        np.testing.assert_allclose(plan.seconds(plan.clicks.tick), [0, 4.75, 9], rtol=0, atol=1e-12)

    def test_a_half_that_comes_upon_a_slot_or_passes_it(self) -> None:
        upon = planned(bpm=60, grid=4, silence=None, swing=3, count_in=0, close=0, cycles=1)
        np.testing.assert_allclose(upon.seconds(upon.notes.tick)[:4], [0, 0.25, 0.75, 1], rtol=0, atol=1e-12)
        past = planned(bpm=60, grid=6, silence=None, swing=3, count_in=0, close=0, cycles=1)
        places = [past.position(offset) for offset in past.notes.offset[:6].tolist()]
        self.assertEqual(places, ["1", "1+1/6", "1+1/3", "1+2/3", "1+1/2", "1+5/6"])

    @given(st.floats(1, 3, allow_nan=False))
    def test_any_swing_is_exact_to_a_microsecond_and_keeps_its_order(self, swing: float) -> None:
        plan = planned(bpm=60, silence=None, swing=swing, count_in=0, close=0, cycles=1)
        times = plan.seconds(plan.notes.tick)
        self.assertTrue(np.all(np.diff(times) > 0))
        self.assertLess(abs(times[1] - swing / (1 + swing)), 1e-6)

    def test_one_swing_says_nothing(self) -> None:
        self.assertEqual(validate(plain(swing=1)).plain()["clicks"], validate(plain()).plain()["clicks"])
        self.assertEqual(validate(plain(swing=1.5)).plain()["clicks"]["swing"], 1.5)
        for swing, said in ((0.9, "at least 1"), (3.1, "at most 3"), ("2", "a number")):
            with self.subTest(swing=swing), self.assertRaises(DrillError) as caught:
                validate(plain(swing=swing))
            self.assertIn(f"clicks.swing: is {swing!r}".replace("'", '"'), str(caught.exception))
            self.assertIn(said, str(caught.exception))

    def test_free_1_and_half_tempo_have_none(self) -> None:
        free = plain(on=[], silence=None) | {"giusto": "free/1"}
        free["clicks"]["swing"] = 2
        with self.assertRaises(DrillError) as caught:
            validate(free)
        self.assertEqual(caught.exception.faults[0].path, "clicks.swing")
        with self.assertRaises(GiustoError) as refused:
            halved(validate(plain(swing=2, silence=None)))
        self.assertEqual(refused.exception.code, "feel")

    def test_places(self) -> None:
        drill = validate(plain(swing=2))
        self.assertEqual(swung(drill, Fraction(3, 2)), Fraction(5, 3))
        self.assertEqual(swung(drill, Fraction(5, 4)), Fraction(5, 4))


class SwungMidiTests(TestCase):
    def test_pretty_midi_reads_the_same_times(self) -> None:
        """The general-purpose library pretty_midi, on the file that we write."""
        plan = planned(bpm=90, on=[*BEATS, *OFFBEATS], silence=None, swing=1.67, cycles=2)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "swung.mid"
            write_midi(plan, path)
            notes = pretty_midi.PrettyMIDI(str(path)).instruments[0].notes
        found = sorted(note.start for note in notes)
        np.testing.assert_allclose(found, plan.seconds(plan.clicks.tick), rtol=0, atol=2e-5)


class SwungReadingTests(TestCase):
    def read(self, swing: float, played_as: float):  # type: ignore[no-untyped-def]
        """Return the reading of a take whose offbeats are played by another swing than is asked."""
        asked, played = (planned(bpm=90, cycles=16, swing=value) for value in (swing, played_as))
        take = simulate(played, SimulatedPlayer(hand_ms=4.0, clock_percent=0.7, place_ms=-8.0), seed=3)
        return analyse(asked, notes_of(take.onsets_s)).reading

    def test_the_swing_asked_is_the_swing_read(self) -> None:
        reading = self.read(2.0, 2.0)
        assert reading.swing is not None
        self.assertLess(abs(reading.swing.ratio - 2.0), 0.06)
        low, high = reading.swing.ci95
        self.assertTrue(low <= 2.0 <= high)
        self.assertEqual(reading.onsets.missed, 0)
        self.assertEqual({one.outcome for one in reading.silences} - {"held", "edge"}, set())

    def test_straight_where_swing_is_asked_crushes_the_long_half(self) -> None:
        reading = self.read(1.5, 1.0)
        assert reading.swing is not None
        self.assertLess(abs(reading.swing.ratio - 1.0), 0.04)
        first = reading.lengths[0]
        self.assertEqual((first.start, first.end), ("0", "1/2"))
        self.assertLess(abs(first.percent - 100 * 0.5 / 0.6), 3)  # half a beat where three fifths are asked
