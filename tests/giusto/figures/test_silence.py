"""Figures of silences, by hand."""

from dataclasses import replace
from unittest import TestCase

from giusto.figures.silence import SilenceSpan, beat_ms, held_limit_ms, mean_return, read_silence, slip_beats
from giusto.simulation.player import SimulatedPlayer
from tests.drills import fixed
from tests.giusto.takes import taken

SPAN = SilenceSpan(start_s=10.0, end_s=15.625, beats=9.0, asked=17, caught=12)
FIGURES = dict(
    drift_ms=45.0, drift_var=25.0, return_ms=-30.0, return_var=16.0, bpm=96.0, lean=0.008, lean_var=1e-6, course=None
)


class SilenceTests(TestCase):
    def test_figures_of_a_silence_by_hand(self) -> None:
        """9 beats at 96 are 5.625 s; 45 ms late by the end is 96 · 5.625 / 5.67. Ranges: 1.96 · 1.08 deviations."""
        found = read_silence(SPAN, **FIGURES)
        self.assertAlmostEqual(found.tempo_bpm or 0.0, 96 * 5.625 / 5.67, places=3)
        self.assertAlmostEqual(found.tempo_percent or 0.0, 100 * (5.625 / 5.67 - 1), places=3)
        half = 1.959964 * 1.08
        for ends, middle, sd in ((found.ci95_ms, 45.0, 5.0), (found.return_ci95_ms, -30.0, 4.0)):
            assert ends
            self.assertAlmostEqual(ends[0], middle - half * sd, places=2)
            self.assertAlmostEqual(ends[1], middle + half * sd, places=2)
        assert found.ci95_percent
        for end, drift_ms in zip(found.ci95_percent, (45 + half * 5, 45 - half * 5), strict=True):
            self.assertAlmostEqual(end, 100 * (5.625 / (5.625 + drift_ms / 1000) - 1), places=3)
        self.assertEqual((found.outcome, found.notes, found.slip_beats), ("edge", 12, 0))

    def test_a_return_earlier_than_nine_tenths_of_a_silence_is_no_tempo_any_more(self) -> None:
        """4 s early in 5.625 s is 332.3 bpm; more than 5.0625 s early stays at ten times the tempo."""
        for drift_ms, bpm in ((-4000.0, 96 * 5.625 / 1.625), (-5060.0, 96 * 5.625 / 0.565), (-5500.0, 960.0)):
            found = read_silence(SPAN, **FIGURES | {"drift_ms": drift_ms})
            self.assertAlmostEqual(found.tempo_bpm or 0.0, bpm, places=2)

    def test_what_is_not_read(self) -> None:
        """Of 17 notes asked in 9 beats half is too much: .8 a beat, 7.2, are enough; and the end is to be reached."""
        for span, outcome in (
            (replace(SPAN, caught=8), "edge"),
            (replace(SPAN, caught=7), "unreadable"),
            (replace(SPAN, asked=12, caught=6), "edge"),
            (replace(SPAN, asked=12, caught=5), "unreadable"),
            (replace(SPAN, asked=0, caught=0), "unreadable"),
            (replace(SPAN, reached=False), "unreadable"),
        ):
            self.assertEqual(read_silence(span, **FIGURES).outcome, outcome, span)
        unplaced = read_silence(SPAN, **FIGURES | {"return_ms": None})
        self.assertEqual((unplaced.outcome, unplaced.return_ci95_ms, unplaced.slip_beats), ("unreadable", None, None))
        self.assertEqual(unplaced.drift_ms, 45.0)

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
