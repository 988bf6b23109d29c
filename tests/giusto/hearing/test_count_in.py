"""Four even strokes count in; too few, uneven ones and running passages start nothing."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from giusto.hearing.count_in import counted_in


class StrokesTests(TestCase):
    def test_four_even_ones(self) -> None:
        found = counted_in([3.0, 3.52, 4.0, 4.51])
        assert found is not None
        self.assertAlmostEqual(found.beat_s, 0.501, places=6)  # by hand: (−3·3.0 − 3.52 + 4.0 + 3·4.51)/10
        self.assertAlmostEqual(found.last_s, 4.509, places=6)
        self.assertEqual(found.bpm, 120.0)

    def test_what_starts_nothing(self) -> None:
        for strokes in (
            [],
            [1.0, 1.5, 2.0],  # too few
            [1.0, 1.5, 2.1, 2.5],  # uneven
            [0.5, 1.0, 1.5, 2.0, 2.5],  # a fifth: something is being played
            [1.0, 1.1, 1.2, 1.3],  # too fast
            [0.0, 3.0, 6.0, 9.0],  # too slow
        ):
            self.assertIsNone(counted_in(strokes), strokes)

    def test_after_a_rest(self) -> None:
        self.assertIsNotNone(counted_in([0.2, 2.3, 2.8, 3.3, 3.8]))

    def test_a_rest_that_nobody_heard_is_none(self) -> None:
        self.assertIsNone(counted_in([1.0, 1.5, 2.0, 2.5], heard_from_s=0.0))
        self.assertIsNotNone(counted_in([2.1, 2.6, 3.1, 3.6], heard_from_s=0.0))

    def test_whoever_plays_on_begins_nothing(self) -> None:
        """Eighths at 94.6 that never stop, heard from anywhere in them, ten seconds at a time (tried with a snare)."""
        eighths = np.arange(0.0, 60.0, 30 / 94.6)
        for from_s in np.arange(0.0, 40.0, 0.37):
            heard = eighths[(eighths >= from_s) & (eighths < from_s + 10)]
            for count in range(1, heard.size + 1):
                self.assertIsNone(counted_in(heard[:count], heard_from_s=from_s))

    def test_what_was_played_just_before_is_no_count_in(self) -> None:
        """Two seconds of rest, and a beat and a half of slow ones."""
        for beat_s, before_s, counts in (
            (0.5, 0.75, False),
            (0.5, 1.9, False),
            (0.5, 2.1, True),
            (1.8, 2.7, False),
            (1.8, 3.0, True),
        ):
            four = 8.0 + beat_s * np.arange(4)
            found = counted_in([four[0] - before_s, *four])
            self.assertEqual(found is not None, counts, (beat_s, before_s))

    @given(st.floats(0.25, 2.0), st.integers(0, 2**32 - 1))
    def test_a_players_spread_is_even_enough(self, beat_s: float, seed: int) -> None:
        """Strokes within 3 % of their places: no step is further than 8 % from the mean of all."""
        spread = np.clip(np.random.default_rng(seed).normal(0, 0.02, 4), -0.03, 0.03)
        self.assertIsNotNone(counted_in(5 + beat_s * (np.arange(4) + spread)))

    def test_hardly_any_player_is_told_to_count_again(self) -> None:
        """Stroke to stroke a player spreads by 2 to 4 % (common practice): so many of 2,000 count-ins are taken."""
        rng = np.random.default_rng(6)
        for steps_percent, least in ((2.0, 0.999), (3.0, 0.99), (4.0, 0.95)):
            off = rng.normal(0, steps_percent / 100 / np.sqrt(2), (2_000, 4))
            taken = np.mean([counted_in(5 + 0.6 * (np.arange(4) + one)) is not None for one in off])
            self.assertGreaterEqual(taken, least, steps_percent)

    def test_where_each_bound_lies(self) -> None:
        for beat_s, begins in ((0.2001, True), (0.1999, False), (2.1999, True), (2.2001, False)):
            self.assertEqual(counted_in(10 + beat_s * np.arange(4)) is not None, begins, beat_s)
        for off, begins in ((0.089, True), (0.091, False)):  # one stroke off moves two steps
            self.assertEqual(counted_in(10 + np.array([0.0, 1.0, 2 + off, 3.0])) is not None, begins, off)
        for rest_s, begins in ((2.0, True), (1.99, False)):
            self.assertEqual(counted_in([10 - rest_s, *(10 + 0.5 * np.arange(4))]) is not None, begins)
            self.assertEqual(counted_in(10 + 0.5 * np.arange(4), heard_from_s=10 - rest_s) is not None, begins)
        for rest_s, begins in ((3.2, True), (3.19, False)):  # of slow ones 1.6 intervals
            self.assertEqual(counted_in([10 - rest_s, *(10 + 2.0 * np.arange(4))]) is not None, begins)

    def test_tempo_and_last_stroke_are_of_the_line_through_the_four(self) -> None:
        """By numpy's least squares; the tempo to half a beat a minute."""
        strokes_s = np.array([10.0, 10.49, 11.02, 11.5])
        found = counted_in(strokes_s)
        assert found
        slope, start = np.polyfit(np.arange(4), strokes_s, 1)
        self.assertAlmostEqual(found.beat_s, slope, places=6)
        self.assertAlmostEqual(found.last_s, start + 3 * slope, places=6)
        self.assertEqual(found.bpm, round(2 * 60 / slope) / 2)
