"""Returns in beats and the words for chances, by hand."""

from dataclasses import replace
from unittest import TestCase

from giusto.figures.held import bpm_of, called, in_beats, outcome, returns_of_take
from giusto.ranges import Z95
from giusto.simulation.player import SimulatedPlayer
from tests.drills import fixed
from tests.giusto.takes import taken


class HeldTests(TestCase):
    def test_a_return_in_beats(self) -> None:
        """At 120 a beat is 500 ms; the range was widened by .08 of itself, which its standard error is not."""
        place, sd = in_beats(25.0, (25 - 1.08 * Z95 * 10, 25 + 1.08 * Z95 * 10), 120)
        self.assertAlmostEqual(place, 0.05)
        self.assertAlmostEqual(sd, 0.02)

    def test_words_change_at_nine_and_at_one_in_ten(self) -> None:
        self.assertEqual(
            [outcome(chance, -1.0) for chance in (0.9, 0.8999, 0.1001, 0.1)], ["held", "edge", "edge", "early"]
        )
        self.assertEqual([outcome(0.0, back) for back in (0.1, -0.1)], ["late", "early"])

    def test_silences_that_cannot_be_read_are_left_out_and_keep_no_chance(self) -> None:
        reading = taken(SimulatedPlayer(clock_percent=1, hand_ms=4), bpm=90, silence=fixed(2, 2), cycles=16)
        unread = replace(reading.silences[1], return_ms=None, return_ci95_ms=None, held_chance=None)
        silences = [reading.silences[0], unread, *reading.silences[2:]]
        self.assertAlmostEqual(bpm_of(silences[0]), 90, places=6)
        returns = returns_of_take(silences)
        self.assertEqual(returns.beats.size, len(silences) - 1)
        self.assertEqual(set(returns.take.tolist()), {0})
        again = called(silences)
        self.assertIsNone(again[1].held_chance)
        self.assertTrue(all(one.held_chance is not None for one in again if one.return_ms is not None))
