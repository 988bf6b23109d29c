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
        self.assertIsNotNone(counted_in([0.2, 1.0, 1.5, 2.0, 2.5]))

    def test_what_was_played_just_before_is_no_count_in(self) -> None:
        """A note one beat and a half before the first belongs to something played; two beats before is a rest."""
        four = np.array([4.0, 4.5, 5.0, 5.5])
        for before, counts in ((1.0, False), (1.25, False), (1.5, False), (1.7, True), (2.0, True)):
            found = counted_in([four[0] - before * 0.5, *four])
            self.assertEqual(found is not None, counts, before)

    @given(st.floats(0.25, 2.0), st.integers(0, 2**32 - 1))
    def test_a_players_spread_is_even_enough(self, beat_s: float, seed: int) -> None:
        """Stroke to stroke a player spreads by 2 to 4 % (common practice)."""
        spread = np.clip(np.random.default_rng(seed).normal(0, 0.02, 4), -0.04, 0.04)
        self.assertIsNotNone(counted_in(5 + beat_s * (np.arange(4) + spread)))
