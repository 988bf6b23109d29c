"""Figures of silences, by hand."""

from dataclasses import replace
from unittest import TestCase

from giusto.figures.silence import beat_ms, held_limit_ms, mean_return, slip_beats
from giusto.simulation.player import SimulatedPlayer
from tests.drills import fixed
from tests.giusto.takes import taken


class SilenceTests(TestCase):
    def test_a_mean_of_independent_returns(self) -> None:
        """Halves of 3, 4 and 12 ms: 13 as the root of their squares, over three."""
        one = taken(SimulatedPlayer(), silence=fixed(2, 2), cycles=16).silences[0]
        rows = ((10.0, (7.0, 13.0)), (-4.0, (-8.0, 0.0)), (30.0, (18.0, 42.0)))
        silences = [replace(one, return_ms=ms, return_ci95_ms=ends) for ms, ends in rows]
        unread = replace(one, return_ms=None, return_ci95_ms=None)
        mean, (low, high) = mean_return([*silences, unread])
        self.assertAlmostEqual(mean, 12.0)
        self.assertAlmostEqual(low, 12 - 13 / 3)
        self.assertAlmostEqual(high, 12 + 13 / 3)

    def test_limits_by_tempo(self) -> None:
        self.assertEqual((beat_ms(60), beat_ms(120), held_limit_ms(120)), (1000, 500, 25))

    def test_a_slip_is_a_whole_beat_that_no_note_leads_to(self) -> None:
        for return_ms, is_followed, beats in ((500, False, -1), (-500, False, 1), (500, True, 0), (250, False, 0)):
            self.assertEqual(slip_beats(return_ms, beat_ms=500, is_followed=is_followed), beats)
