"""Tempo against facts of the trade and music21."""

from fractions import Fraction
from unittest import TestCase

from giusto.tempo import beat_period_s, deviation_percent, held_tempo_bpm
from tests.reference.golden import DOTTED_QUARTER_90_QUARTER_S


class TempoTests(TestCase):
    def test_beats_a_second(self) -> None:
        # Common practice: 60 is a beat a second, 120 two, 30 one every two seconds.
        for bpm, seconds in ((60, 1), (120, Fraction(1, 2)), (30, 2)):
            self.assertEqual(beat_period_s(bpm), seconds)

    def test_decimal_tempo_is_exact(self) -> None:
        self.assertEqual(beat_period_s(96.1), Fraction(600, 961))

    def test_quarter_at_dotted_quarter_90(self) -> None:
        """A quarter is two thirds of a dotted one."""
        self.assertAlmostEqual(float(beat_period_s(90)) * 2 / 3, DOTTED_QUARTER_90_QUARTER_S, places=6)

    def test_late_end_is_a_slower_tempo(self) -> None:
        bpm = held_tempo_bpm(100, asked_s=6.0, drift_s=0.06)
        self.assertAlmostEqual(bpm, 100 / 1.01)
        self.assertAlmostEqual(deviation_percent(bpm, asked_bpm=100), 100 * (1 / 1.01 - 1))
